<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import Filters from '../../lib/components/Filters.svelte';
  import Moment from '../../lib/components/Moment.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import ShowMore from '../../lib/components/ShowMore.svelte';
  import { AUDIT } from '../../lib/filters';
  import { Listing } from '../../lib/listing.svelte';
  import { href, type Query } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import { ofPerson, told } from './audit';

  /** Who did what and when, the latest first; what is sealed can be checked outside of here. */
  let { query }: { query: Query } = $props();
  const list = new Listing<Schemas['AuditEvent']>(
    ['dockets', 'decisions', 'people', 'access'],
    () => ({ page: 'access', query }),
    (asked, signal) => {
      const query = { ...asked, part: undefined };
      return got(api.GET('/api/v1/audit', { params: { query }, signal }));
    }
  );
  const zone = $derived(session.zone);
</script>

<div class="titled">
  <h2>Who did what</h2>
  {#if session.mayAdminister}
    <a class="button slim" href="/api/v1/audit/export" download="audit.jsonl">Export, sealed</a>
  {/if}
</div>
<Filters fields={AUDIT} {query} onask={(change) => list.ask(change)} />
<ProblemNote problem={list.problem} />
{#if list.rows.length}
  <div class="scroll">
    <table class="list">
      <thead>
        <tr
          ><th>When</th><th>Who</th><th>Did</th><th>About</th><th>What of it</th><th>Sealed as</th
          ></tr
        >
      </thead>
      <tbody>
        {#each list.rows as row (row.id)}
          <tr>
            <td class="name at"><Moment at={row.at} {zone} /></td>
            <td class="mono">{row.actor}</td>
            <td class="mono">{row.action}</td>
            <td
              >{#if row.docket_id}<a href={href({ page: 'docket', name: row.docket_id })}>docket</a
                >{:else if ofPerson(row.action)}<a href={href({ page: 'person', who: row.subject })}
                  >person</a
                >{/if}</td
            >
            <td>{told(row.payload)}</td>
            <td class="num soft">{row.leaf_index ?? 'not yet'}</td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
  <ShowMore {list} />
{:else if !list.busy && !list.problem}
  <p class="soft">Nothing that fits was done.</p>
{/if}

<style>
  .at {
    white-space: nowrap;
  }
</style>

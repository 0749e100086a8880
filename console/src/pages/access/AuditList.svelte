<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import Moment from '../../lib/components/Moment.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import ShowMore from '../../lib/components/ShowMore.svelte';
  import { Listing } from '../../lib/listing.svelte';
  import { href, router, type Query } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import { ofPerson, told } from './audit';

  /** Who did what and when, the latest first; what is sealed can be checked outside of here. */
  let { query }: { query: Query } = $props();
  type Asked = { who?: string; docket?: string; action?: string };
  const NAMES = { who: 'About whom', docket: 'Docket', action: 'What was done' } as const;
  const HINTS = { who: 'Login or number', docket: 'Its number', action: 'person.changed' } as const;
  // svelte-ignore state_referenced_locally
  const said = $state<Asked>({ who: query.who, docket: query.docket, action: query.action });
  const list = new Listing<Schemas['AuditEvent']>(
    ['dockets', 'decisions', 'people', 'access'],
    () => {
      const asked = Object.entries(query).filter(([name]) => name in NAMES);
      return { page: 'access', part: 'audit', query: Object.fromEntries(asked) };
    },
    (asked, signal) => got(api.GET('/api/v1/audit', { params: { query: asked }, signal }))
  );
  const zone = $derived(session.zone);
  function ask(event: SubmitEvent): void {
    event.preventDefault();
    const filled = Object.entries(said).filter(([, value]) => value?.trim());
    router.go({ page: 'access', query: { part: 'audit', ...Object.fromEntries(filled) } });
  }
</script>

<div class="titled">
  <h2>Who did what</h2>
  {#if session.mayAdminister}
    <a class="button slim" href="/api/v1/audit/export" download="audit.jsonl">Export, sealed</a>
  {/if}
</div>
<form class="ask" onsubmit={ask}>
  {#each Object.entries(NAMES) as [name, label] (name)}
    <label class="field"
      ><span>{label}</span><input
        placeholder={HINTS[name as keyof Asked]}
        bind:value={said[name as keyof Asked]}
      /></label
    >
  {/each}
  <button class="button">Show</button>
</form>
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
  .ask {
    display: flex;
    gap: 10px;
    align-items: end;
    flex-wrap: wrap;
    margin-bottom: 12px;
  }
</style>

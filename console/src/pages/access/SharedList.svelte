<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import Later from '../../lib/components/Later.svelte';
  import Moment from '../../lib/components/Moment.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import ShowMore from '../../lib/components/ShowMore.svelte';
  import { Listing } from '../../lib/listing.svelte';
  import { session } from '../../lib/session.svelte';

  /** What several people know, and who of them has left. */
  const list = new Listing<Schemas['SharedRow']>(
    ['shared', 'people'],
    () => ({ page: 'access', part: 'shared' }),
    (query, signal) => got(api.GET('/api/v1/shared', { params: { query }, signal }))
  );
  let open = $state.raw<Schemas['SharedRow'] | null>(null);
  let adding = $state(false);
</script>

<div class="titled">
  <h2>Shared credentials</h2>
  {#if session.mayAct}
    <button class="button slim" onclick={() => (adding = true)}>New shared credential …</button>
  {/if}
</div>
<ProblemNote problem={list.problem} />
{#if list.rows.length}
  <div class="scroll">
    <table class="list">
      <thead>
        <tr
          ><th>Credential</th><th>Where</th><th>Who changes it</th><th>Known by</th><th
            >Knew it and left</th
          ><th>Changed</th></tr
        >
      </thead>
      <tbody>
        {#each list.rows as row (row.id)}
          <tr>
            <td class="name"
              ><button class="bare link" onclick={() => (open = row)}>{row.name}</button></td
            >
            <td>{row.place}</td>
            <td>{row.owner_name ?? 'nobody is named'}</td>
            <td class="num">{row.known_by}</td>
            <td>{row.left.join(', ') || '–'}</td>
            <td><Moment at={row.changed_at} zone={session.zone} /></td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
  <ShowMore {list} />
{:else if list.count !== null}
  <p class="soft">
    None. What several people know – a code, a key box, a common password – is named here, never the
    credential itself: when one of them leaves, whoever changes it is asked to.
  </p>
{/if}
{#if open || adding}
  <Later
    load={() => import('./SharedDialog.svelte')}
    row={open}
    onclose={() => {
      open = null;
      adding = false;
    }}
  />
{/if}

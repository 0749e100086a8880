<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { Load } from '../../lib/load.svelte';
  import { href } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import { VERBS } from '../../lib/words';
  import Moment from '../../lib/components/Moment.svelte';

  interface Props {
    row: Schemas['ApprovalRow'];
    changed: () => void;
  }
  let { row, changed }: Props = $props();
  let refusing = $state(false);
  let agreeing = $state(false);
  let note = $state('');
  let agrees = true;
  const standsIn = $derived(session.mayAdminister && row.author !== session.view?.operator.login);
  const zone = $derived(session.zone);
  const send = new Load(async () => {
    const params = { path: { approval_id: row.id } };
    await got(
      api.POST('/api/v1/approvals/{approval_id}/answer', { params, body: { agrees, note } })
    );
    changed();
    return true;
  });
  function answer(yes: boolean): void {
    agrees = yes;
    void send.run();
  }
</script>

<tr>
  <td class="name"
    >{VERBS[row.verb] ?? row.verb}
    {row.subject_name}
    <span class="soft">{row.reason || row.summary[0]}</span></td
  >
  <td>
    {row.name}: {row.asked.map((a) => (a.why ? `${a.name} (${a.why})` : a.name)).join(', ')}
    {#if row.everyone}<span class="soft">all of them</span>{/if}
  </td>
  <td class="soft"><Moment at={row.made_at} {zone} /></td>
  <td><Moment at={row.expires_at} {zone} /></td>
  <td
    ><a href={href({ page: 'docket', name: row.number })}>{row.number}</a>
    <span class="soft">by {row.author}</span></td
  >
  <td>
    {#if !row.mine && !standsIn}
      <span class="soft">you were not asked</span>
    {:else if !row.mine && !agreeing && !refusing}
      <span class="soft">you were not asked</span>
      <span class="both">
        <button class="button slim" onclick={() => (agreeing = true)}>Agree for them …</button>
        <button class="button slim" onclick={() => (refusing = true)}>Refuse …</button>
      </span>
    {:else if agreeing}
      <form
        onsubmit={(e) => {
          e.preventDefault();
          answer(true);
        }}
      >
        <input aria-label="Why for them" placeholder="Why for them" bind:value={note} required />
        <button class="button slim do" disabled={send.busy}>Agree as administrator</button>
        <button class="button slim" type="button" onclick={() => (agreeing = false)}>Back</button>
      </form>
    {:else if refusing}
      <form
        onsubmit={(e) => {
          e.preventDefault();
          answer(false);
        }}
      >
        <input aria-label="Why not" placeholder="Why not" bind:value={note} required />
        <button class="button slim" disabled={send.busy}>Refuse</button>
        <button class="button slim" type="button" onclick={() => (refusing = false)}>Back</button>
      </form>
    {:else}
      <span class="both">
        <button class="button slim do" onclick={() => answer(true)} disabled={send.busy}
          >Agree</button
        >
        <button class="button slim" onclick={() => (refusing = true)}>Refuse …</button>
      </span>
    {/if}
    <ProblemNote problem={send.problem} />
  </td>
</tr>

<style>
  input {
    font: inherit;
    color: var(--color-surface-contrast-50-950);
    background: var(--color-surface-100-900);
    border: 1px solid var(--color-surface-300-700);
    border-radius: 4px;
    padding: 3px 8px;
  }
  form,
  .both {
    display: flex;
    gap: 6px;
    flex-wrap: wrap;
  }
</style>

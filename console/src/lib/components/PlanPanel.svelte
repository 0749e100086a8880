<script lang="ts">
  import { Planning, type Wish } from '../plan.svelte';
  import { VERBS } from '../words';
  import MoveFields from './MoveFields.svelte';
  import Panel from './Panel.svelte';
  import PlanView from './PlanView.svelte';
  import PrecautionFields from './PrecautionFields.svelte';
  import RenameFields from './RenameFields.svelte';
  import ProblemNote from './ProblemNote.svelte';
  import Safeguards from './Safeguards.svelte';

  interface Props {
    wish: Wish;
    who: string;
    onclose: (confirmed: boolean) => void;
  }
  let { wish, who, onclose }: Props = $props();
  // svelte-ignore state_referenced_locally
  const plan = new Planning(wish);
  const asks = $derived(
    !['undo', 'account', 'recheck', 'group'].includes(wish.verb) || !!wish.measure
  );
  const dated = $derived(asks && !wish.measure);
  const close = () => onclose(plan.confirmed);
  const title = $derived(wish.measure ? 'Precaution' : VERBS[wish.verb]);
  const cuts = $derived(wish.verb === 'leaver');

  function submit(event: SubmitEvent): void {
    event.preventDefault();
    void (plan.batch ? plan.confirm() : plan.make());
  }
  // svelte-ignore state_referenced_locally
  if (wish.urgent || !asks) void plan.make();
</script>

{#snippet why()}
  <div class="two">
    <label class="field"><span>Reference</span><input bind:value={plan.reference} /></label>
    <label class="field"><span>Reason</span><input bind:value={plan.reason} /></label>
  </div>
{/snippet}

<Panel open title="{title}: {who}" wide onclose={close}>
  <form onsubmit={submit}>
    {#if !plan.batch && wish.measure}<PrecautionFields {plan} />{/if}
    {#if !plan.batch && dated}
      {#if wish.verb !== 'extension'}
        <label class="field"
          ><span>When (now if left out): Fri 17:00, 2031-03-07, +12d</span><input
            bind:value={plan.at}
          /></label
        >
      {/if}
      {#if wish.verb === 'absence' || wish.verb === 'extension'}
        <label class="field"
          ><span>Until</span><input
            bind:value={plan.until}
            required={wish.verb === 'extension'}
          /></label
        >
      {/if}
      {#if wish.verb === 'rename'}<RenameFields {plan} />{/if}
      {#if wish.verb === 'mover'}<MoveFields {plan} />{/if}
      {#if cuts}
        <label class="field"
          ><span>Access should have ended (if that is past)</span><input
            bind:value={plan.since}
          /></label
        >
        <label class="field"
          ><span>Successor (the manager if left out)</span><input
            bind:value={plan.successor}
          /></label
        >
        <label class="check"
          ><input type="checkbox" bind:checked={plan.confidential} /> Prepare in confidence: only you
          see it, under Waiting, until you carry it out</label
        >
        {#if plan.confidential}{@render why()}{/if}
      {/if}
    {/if}
    <ProblemNote problem={plan.problem} />
    {#if plan.batch}
      <PlanView batch={plan.batch} />
      {#if !plan.confidential}{@render why()}{/if}
      <Safeguards batch={plan.batch} bind:typed={plan.typed} bind:override={plan.override} />
    {/if}
    <div class="buttons">
      <button class="button plain" type="button" onclick={close}>Close</button>
      {#if plan.batch && plan.confidential}
        <a class="button do" href="/waiting" onclick={close}>Keep it under Waiting</a>
      {:else if plan.batch}
        <button class={cuts ? 'button cut' : 'button do'} disabled={plan.busy}>
          {cuts ? (plan.at ? 'Set the cut-off' : 'Cut off now') : 'Carry it out'}
        </button>
      {:else}
        <button class="button do" disabled={plan.busy}>
          {plan.busy ? 'Looking at the applications …' : 'Show the plan'}
        </button>
      {/if}
    </div>
  </form>
</Panel>

<style>
  .two {
    display: grid;
    grid-template-columns: 1fr 2fr;
    gap: 12px;
  }
</style>

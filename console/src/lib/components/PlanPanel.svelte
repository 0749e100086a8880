<script lang="ts">
  import { titleOf, Planning, type Wish } from '../plan.svelte';
  import Later from './Later.svelte';
  import Panel from './Panel.svelte';
  import PlanFields from './PlanFields.svelte';
  import PlanView from './PlanView.svelte';
  import ProblemNote from './ProblemNote.svelte';
  import Safeguards from './Safeguards.svelte';
  import WhyFields from './WhyFields.svelte';

  interface Props {
    wish: Wish;
    who: string;
    onclose: (confirmed: boolean) => void;
  }
  let { wish, who, onclose }: Props = $props();
  // svelte-ignore state_referenced_locally
  const plan = new Planning(wish);
  const asks = $derived(
    !wish.file && (!['undo', 'account', 'recheck', 'group'].includes(wish.verb) || !!wish.measure)
  );
  const dated = $derived(asks && !wish.measure);
  /** In whose zone dates are meant; of several people each has their own. */
  const one = $derived(wish.who?.length === 1 ? wish.who[0] : '');
  const close = () => onclose(plan.confirmed);
  const title = $derived(titleOf(wish));
  const cuts = $derived(wish.verb === 'leaver');

  function submit(event: SubmitEvent): void {
    event.preventDefault();
    void (plan.batch ? plan.confirm() : plan.make());
  }
  // svelte-ignore state_referenced_locally
  if (wish.urgent || !asks) void plan.make();
</script>

<Panel open title="{title}: {who}" wide onclose={close}>
  <form onsubmit={submit}>
    {#if !plan.batch}<PlanFields {plan} {wish} {dated} {one} />{/if}
    <ProblemNote problem={plan.problem} onright={(place) => plan.isRight(place)} />
    {#if plan.batch}
      <PlanView batch={plan.batch} />
      {#if plan.takesOut}
        <Later load={() => import('./LeaveOut.svelte')} {plan} batch={plan.batch} />
      {/if}
      {#if !plan.confidential}
        <WhyFields {plan} file={!!wish.file} />
        <Safeguards batch={plan.batch} bind:typed={plan.typed} bind:override={plan.override} />
      {/if}
    {/if}
    <div class="buttons">
      <button class="button plain" type="button" onclick={close}>Close</button>
      {#if plan.batch && plan.confidential}
        <a class="button do" href="/waiting" onclick={close}>Keep it under Waiting</a>
      {:else if plan.batch}
        <button class={cuts ? 'button cut' : 'button do'} disabled={plan.busy}>
          {wish.file || !cuts ? 'Carry it out' : plan.at ? 'Set the cut-off' : 'Cut off now'}
        </button>
      {:else}
        <button class="button do" disabled={plan.busy}>
          {plan.busy ? 'Looking at the applications …' : 'Show the plan'}
        </button>
      {/if}
    </div>
  </form>
</Panel>

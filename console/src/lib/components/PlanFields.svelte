<script lang="ts">
  import type { Planning, Wish } from '../plan.svelte';
  import LeaverFields from './LeaverFields.svelte';
  import MoveFields from './MoveFields.svelte';
  import PickMoment from './pick/PickMoment.svelte';
  import PrecautionFields from './PrecautionFields.svelte';
  import RenameFields from './RenameFields.svelte';
  import WhyFields from './WhyFields.svelte';

  interface Props {
    plan: Planning;
    wish: Wish;
    /** Whether it is of a day. */
    dated: boolean;
    /** In whose zone dates are meant. */
    one: string | undefined;
  }
  /** What is asked before there is a plan. */
  let { plan, wish, dated, one }: Props = $props();
</script>

{#if wish.measure}<PrecautionFields {plan} />{/if}
{#if dated}
  {#if wish.verb !== 'extension'}
    <PickMoment label="When (now if left out)" bind:value={plan.at} who={one} />
  {/if}
  {#if wish.verb === 'absence' || wish.verb === 'extension'}
    <PickMoment
      label="Until"
      bind:value={plan.until}
      who={one}
      required={wish.verb === 'extension'}
    />
  {/if}
  {#if wish.verb === 'rename'}<RenameFields {plan} />{/if}
  {#if wish.verb === 'mover'}<MoveFields {plan} />{/if}
  {#if wish.verb === 'leaver'}
    <LeaverFields {plan} who={one} />
    {#if plan.confidential}<WhyFields {plan} />{/if}
  {/if}
{/if}

<script lang="ts">
  import type { Planning } from '../plan.svelte';

  interface Props {
    plan: Planning;
    /** Of a file of leavers the rows have their own. */
    file?: boolean;
  }
  /** What is kept with a docket; of what is prepared in confidence also why a guard may be passed. */
  let { plan, file = false }: Props = $props();
  const rest = $derived(file ? ', of rows without one' : '');
</script>

<div class="why">
  <label class="field"><span>Reference{rest}</span><input bind:value={plan.reference} /></label>
  <label class="field"><span>Reason{rest}</span><input bind:value={plan.reason} /></label>
</div>
{#if plan.confidential && !plan.batch}
  <label class="field"
    ><span>Why it is right all the same, where a guard stands in the way</span><input
      bind:value={plan.override}
    /></label
  >
{/if}

<style>
  .why {
    display: grid;
    grid-template-columns: 1fr 2fr;
    gap: 12px;
  }
</style>

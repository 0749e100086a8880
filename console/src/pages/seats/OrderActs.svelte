<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import { session } from '../../lib/session.svelte';
  import type { Ordering } from './ordering.svelte';

  /** What can be done next about an order. */
  let { acts, view }: { acts: Ordering; view: Schemas['OrderView'] } = $props();
  const comes = $derived(view.state === 'agreed' || view.state === 'expected');
  const open = $derived(comes || view.state === 'asked');
</script>

{#if open && session.mayAct}
  <div class="form-row">
    <label class="field"
      ><span>What is to be said</span><input maxlength="300" bind:value={acts.answer} /></label
    >
    {#if session.mayAdminister && view.state === 'asked'}
      <button class="button do" disabled={acts.busy} onclick={() => void acts.decide(view.id, true)}
        >Agree</button
      >
      <button class="button" disabled={acts.busy} onclick={() => void acts.decide(view.id, false)}
        >Refuse</button
      >
    {/if}
    <button class="button" disabled={acts.busy} onclick={() => void acts.withdraw(view.id)}
      >Withdraw</button
    >
  </div>
{/if}
{#if comes && session.mayAdminister}
  <div class="form-row">
    <label class="field"><span>Expected on</span><input type="date" bind:value={acts.on} /></label>
    <label class="field"
      ><span>Reference</span><input maxlength="300" bind:value={acts.reference} /></label
    >
    <button
      class="button"
      disabled={acts.busy || !acts.on}
      onclick={() => void acts.expect(view.id)}>Expect</button
    >
    <label class="field"
      ><span>How many arrived (all if empty)</span><input
        type="number"
        min="1"
        bind:value={acts.came}
      /></label
    >
    <button class="button do" disabled={acts.busy} onclick={() => void acts.arrive(view.id)}
      >They have arrived</button
    >
  </div>
{/if}

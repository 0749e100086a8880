<script lang="ts">
  import type { DocketState, StepRow } from '../../lib/docket.svelte';

  let { docket, step }: { docket: DocketState; step: StepRow } = $props();
  let note = $state('');
</script>

<div class="settle">
  <button class="button" onclick={() => docket.settle(step.id, 'retry', '')}>Retry</button>
  <input
    class="why"
    aria-label="Why, or what was done by hand"
    placeholder="why, or what was done"
    bind:value={note}
  />
  <button
    class="button"
    disabled={!note.trim()}
    onclick={() => docket.settle(step.id, 'left_out', note)}>Leave out</button
  >
  <button
    class="button"
    disabled={!note.trim()}
    onclick={() => docket.settle(step.id, 'by_hand', note)}>Done by hand</button
  >
</div>

<style>
  .settle {
    display: flex;
    flex-wrap: wrap;
    gap: 6px;
    margin-top: 4px;
  }
  .settle .button {
    padding: 2px 9px;
  }
</style>

<script lang="ts">
  import { Progress } from '@skeletonlabs/skeleton-svelte';

  /** How many were taken of how many; what is left when it is stopped is taken next time. */
  let { done, all, onstop }: { done: number; all: number; onstop: () => void } = $props();
</script>

<div class="taking">
  <Progress value={done} max={all || 1} class="bar">
    <Progress.Label>{done} of {all} taken</Progress.Label>
    <Progress.Track class="track"><Progress.Range class="range" /></Progress.Track>
  </Progress>
  <button class="button" onclick={onstop}>Stop</button>
</div>

<style>
  .taking {
    display: flex;
    gap: 12px;
    align-items: end;
    margin-top: 14px;
  }
  .taking :global(.bar) {
    flex: 1;
  }
  .taking :global(.track) {
    height: 8px;
    background: var(--color-surface-200-800);
  }
  .taking :global(.range) {
    height: 8px;
    background: var(--color-success-600-400);
  }
</style>

<script lang="ts">
  import { SegmentedControl } from '@skeletonlabs/skeleton-svelte';
  import type { Lifeline, Zoom } from '../lifeline.svelte';

  let { line }: { line: Lifeline } = $props();
</script>

<SegmentedControl value={line.zoom} onValueChange={(e) => (line.zoom = e.value as Zoom)}>
  <SegmentedControl.Label class="visually-hidden">Zoom</SegmentedControl.Label>
  <SegmentedControl.Control class="yg-zoom">
    {#each ['week', 'month', 'year'] as zoom (zoom)}
      <SegmentedControl.Item value={zoom} class="yg-zoom-item">
        <SegmentedControl.ItemText>{zoom}</SegmentedControl.ItemText>
        <SegmentedControl.ItemHiddenInput />
      </SegmentedControl.Item>
    {/each}
  </SegmentedControl.Control>
</SegmentedControl>

<style>
  :global(.yg-zoom-item *) {
    font-size: inherit;
    line-height: inherit;
  }
  :global(.yg-zoom) {
    display: flex;
    gap: 2px;
    font-size: 12.5px;
    border: 1px solid var(--color-surface-300-700);
    border-radius: 4px;
    padding: 1px;
  }
  :global(.yg-zoom-item) {
    font-size: 12.5px;
    line-height: 18px;
    padding: 0 8px;
    cursor: pointer;
    border-radius: 3px;
  }
  :global(.yg-zoom-item[data-state='checked']) {
    background: var(--color-surface-contrast-50-950);
    color: var(--color-surface-50-950);
  }
</style>

<script lang="ts" generics="T extends string">
  import { SegmentedControl } from '@skeletonlabs/skeleton-svelte';

  interface Props {
    label: string;
    options: Record<T, string>;
    value: T;
    /** Whether the label is for those who hear the page only. */
    hidden?: boolean;
  }
  /** One of a few, side by side. */
  let { label, options, value = $bindable(), hidden = false }: Props = $props();
</script>

<SegmentedControl {value} onValueChange={(event) => (value = event.value as T)} class="yg-segments">
  <SegmentedControl.Label class={hidden ? 'visually-hidden' : ''}>{label}</SegmentedControl.Label>
  <SegmentedControl.Control>
    <SegmentedControl.Indicator />
    {#each Object.entries(options) as [name, text] (name)}
      <SegmentedControl.Item value={name}>
        <SegmentedControl.ItemText>{text}</SegmentedControl.ItemText>
        <SegmentedControl.ItemHiddenInput />
      </SegmentedControl.Item>
    {/each}
  </SegmentedControl.Control>
</SegmentedControl>

<style>
  :global([data-scope='radio-group'].yg-segments) {
    display: flex;
    flex-direction: row;
    gap: 10px;
    align-items: center;
    justify-content: flex-start;
    margin-bottom: 10px;
  }
  :global(.yg-segments [data-part='control']) {
    padding: 2px;
    border: 1px solid var(--color-surface-400-600);
    border-radius: var(--radius-base);
  }
  :global(.yg-segments [data-part='item']) {
    padding: 2px 12px;
    font-size: inherit;
  }
  :global(.yg-segments [data-part='indicator']) {
    background: var(--color-surface-950-50);
    border-radius: var(--radius-base);
  }
  :global(.yg-segments [data-part='item-text']) {
    color: var(--color-surface-950-50);
    font-size: inherit;
  }
  :global(.yg-segments [data-part='item-text'][data-state='checked']) {
    color: var(--color-surface-50-950);
  }
  :global(.yg-segments [data-part='item'][data-focus-visible]) {
    outline: 2px solid currentcolor;
    outline-offset: 2px;
  }
</style>

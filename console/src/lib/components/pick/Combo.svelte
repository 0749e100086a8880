<script lang="ts" generics="T">
  import { Combobox } from '@skeletonlabs/skeleton-svelte';
  import { ListCollection } from '@zag-js/collection';
  import type { Snippet } from 'svelte';

  interface Props {
    label: string;
    /** What was picked, or typed where anything may be. */
    value: string;
    /** How that reads in the field. */
    shown: string;
    items: T[];
    valueOf: (item: T) => string;
    nameOf: (item: T) => string;
    ask: (typed: string) => void;
    onpick: (value: string) => void;
    item?: Snippet<[T]>;
    /** Whether what is typed counts, also where it is in no list. */
    free?: boolean;
    required?: boolean;
    /** What is said where nothing fits. */
    none?: string;
    hint?: string;
  }
  let {
    label,
    value,
    shown,
    items,
    valueOf,
    nameOf,
    ask,
    onpick,
    item,
    free = false,
    required = false,
    none = 'Nothing fits.',
    hint = ''
  }: Props = $props();
  let open = $state(false);
  const collection = $derived(
    new ListCollection({ items, itemToValue: valueOf, itemToString: nameOf })
  );
</script>

<Combobox
  class="yg-pick"
  {collection}
  value={value ? [value] : []}
  inputValue={shown}
  inputBehavior={free ? 'none' : 'autohighlight'}
  selectionBehavior="replace"
  allowCustomValue={free}
  openOnClick
  placeholder={hint}
  {required}
  positioning={{ strategy: 'fixed', sameWidth: true }}
  onOpenChange={(event) => (open = event.open)}
  onValueChange={(event) => onpick(event.value[0] ?? '')}
  onInputValueChange={(event) => event.reason !== 'item-select' && ask(event.inputValue)}
>
  <Combobox.Label>{label}</Combobox.Label>
  <Combobox.Control>
    <Combobox.Input />
    {#if value && !free}
      <Combobox.ClearTrigger aria-label="Nobody: {label}">×</Combobox.ClearTrigger>
    {/if}
  </Combobox.Control>
  <Combobox.Positioner class="yg-pick-place">
    <Combobox.Content>
      {#if open}
        {#each items as one (valueOf(one))}
          <Combobox.Item item={one}>
            {#if item}{@render item(one)}{:else}{nameOf(one)}{/if}
          </Combobox.Item>
        {:else}
          <p class="soft none" role="status">{none}</p>
        {/each}
      {/if}
    </Combobox.Content>
  </Combobox.Positioner>
</Combobox>

<style>
  .none {
    margin: 0;
    padding: 4px 8px;
  }
  :global {
    .yg-pick {
      display: grid;
      gap: 3px;
      font-size: 14px;
    }
    .yg-pick [data-part='label'] {
      font-size: 12.5px;
      color: var(--soft);
    }
    .yg-pick [data-part='control'] {
      position: relative;
    }
    .yg-pick [data-part='input'] {
      font: inherit;
      color: var(--ink);
      background: var(--sheet);
      border: 1px solid var(--rule);
      border-radius: 4px;
      padding: 6px 28px 6px 10px;
      width: 100%;
    }
    .yg-pick [data-part='clear-trigger'] {
      position: absolute;
      right: 4px;
      top: 50%;
      translate: 0 -50%;
      padding: 2px 7px;
      cursor: pointer;
      color: var(--soft);
    }
    .yg-pick-place [data-part='content'] {
      z-index: 60;
      background: var(--sheet);
      color: var(--ink);
      border: 1px solid var(--ink);
      border-radius: 4px;
      padding: 4px 0;
      max-height: min(20rem, 50dvh);
      overflow-y: auto;
      font-size: 14px;
      line-height: 20px;
    }
    .yg-pick-place [data-part='item'] {
      display: flex;
      justify-content: space-between;
      gap: 12px;
      padding: 5px 10px;
      cursor: pointer;
    }
    .yg-pick-place [data-part='item'][data-highlighted] {
      background: var(--faint);
      box-shadow: inset 3px 0 0 var(--accent);
    }
  }
</style>

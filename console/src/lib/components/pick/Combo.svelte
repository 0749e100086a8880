<script lang="ts" generics="T">
  import './combo.css';
  import { Combobox } from '@skeletonlabs/skeleton-svelte';
  import { ListCollection } from '@zag-js/collection';
  import type { Snippet } from 'svelte';
  import ComboList from './ComboList.svelte';

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
    none = 'Nothing fits.',
    hint = ''
  }: Props = $props();
  let open = $state(false);
  // What is typed freely is no item: as a value it would be taken for one that is gone, and emptied.
  const picked = $derived(free || !value ? [] : [value]);
  const collection = $derived(
    new ListCollection({ items, itemToValue: valueOf, itemToString: nameOf })
  );
</script>

<Combobox
  class="yg-pick"
  {collection}
  value={picked}
  inputValue={shown}
  inputBehavior={free ? 'none' : 'autohighlight'}
  selectionBehavior="replace"
  allowCustomValue={free}
  openOnClick
  placeholder={hint}
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
  <ComboList {items} {valueOf} {nameOf} {item} {none} {open} />
</Combobox>

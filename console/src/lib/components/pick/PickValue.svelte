<script lang="ts">
  import type { operations } from '../../schema';
  import { Values } from '../../pick.svelte';
  import PickKnown from './PickKnown.svelte';

  type Field = operations['people.values']['parameters']['query']['field'];
  interface Props {
    label: string;
    field: Field;
    value: string;
    onpick?: (value: string) => void;
  }
  /** A value that others have, or a new one. */
  let { label, field, value = $bindable(), onpick }: Props = $props();
  // svelte-ignore state_referenced_locally
  const known = new Values(field);
</script>

<PickKnown {label} {known} bind:value {onpick} strange={(said) => `Nobody has “${said}” yet.`} />

<script lang="ts">
  import type { operations } from '../../schema';
  import { Values } from '../../pick.svelte';
  import Soon from './Soon.svelte';

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
  const values = new Values(field);
  function take(said: string): void {
    value = said;
    onpick?.(said);
  }
</script>

<Soon
  {label}
  {value}
  shown={value}
  items={values.found}
  valueOf={(one) => one}
  nameOf={(one) => one}
  ask={(typed) => {
    take(typed);
    values.say(typed);
  }}
  onpick={(said) => said && take(said)}
  none={values.problem?.message ?? (value ? `Nobody has “${value}” yet.` : '')}
  free
/>

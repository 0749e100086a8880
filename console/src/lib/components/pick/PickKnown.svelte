<script lang="ts">
  import type { Known } from '../../pick.svelte';
  import Soon from './Soon.svelte';

  interface Props {
    label: string;
    /** What is there to be picked. */
    known: Known;
    value: string;
    onpick?: (value: string) => void;
    /** What is said of a value that is not among them. */
    strange?: (value: string) => string;
  }
  /** A value that is known, or a new one: whether that may be the service says. */
  let { label, known, value = $bindable(), onpick, strange }: Props = $props();
  function take(said: string): void {
    value = said;
    onpick?.(said);
  }
</script>

<Soon
  {label}
  {value}
  shown={value}
  items={known.found}
  valueOf={(one) => one}
  nameOf={(one) => one}
  ask={(typed) => {
    take(typed);
    known.say(typed);
  }}
  onpick={(said) => said && take(said)}
  none={known.problem?.message ?? (value ? (strange?.(value) ?? `“${value}” is not known.`) : '')}
  free
/>

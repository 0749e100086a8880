<script lang="ts">
  import { Applications } from '../../pick.svelte';
  import Soon from './Soon.svelte';

  interface Props {
    label: string;
    /** The id of the one that is picked. */
    value: string;
    /** Told at once; `value` is bound as well. */
    onpick?: (id: string) => void;
  }
  let { label, value = $bindable(), onpick }: Props = $props();
  const applications = new Applications();
</script>

<Soon
  {label}
  value={applications.has(value) ? value : ''}
  shown={applications.shown}
  items={applications.found}
  valueOf={(one) => one.id}
  nameOf={(one) => one.name}
  ask={(typed) => (applications.shown = typed)}
  onpick={(said) => {
    value = applications.pick(said);
    onpick?.(value);
  }}
  none={applications.none}
  hint="Name or id"
>
  {#snippet item(one)}
    <span><b>{one.name}</b> <span class="soft small">{one.id} · {one.kind}</span></span>
  {/snippet}
</Soon>

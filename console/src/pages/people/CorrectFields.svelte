<script lang="ts">
  import PickValue from '../../lib/components/pick/PickValue.svelte';
  import { fieldName } from '../../lib/words';
  import { PARTS, type Correcting } from './correcting.svelte';

  /** All that is written down of somebody, in parts. */
  let { form }: { form: Correcting } = $props();
  const parts = $derived([
    ...Object.entries<readonly string[]>(PARTS),
    ...(form.own.length ? [['Of the organisation’s own', form.own] as const] : [])
  ]);
  const KNOWN = ['department', 'site', 'user_type'] as const;
  const known = (name: string) => KNOWN.find((one) => one === name);
</script>

{#each parts as [title, names] (title)}
  <fieldset class="three">
    <legend>{title}</legend>
    {#each names as name (name)}
      {@const field = known(name)}
      {#if field}
        <PickValue label={fieldName(name)} {field} bind:value={form.fields[name]!} />
      {:else}
        <label class="field"
          ><span>{fieldName(name)}</span><input
            maxlength="300"
            bind:value={form.fields[name]}
          /></label
        >
      {/if}
    {/each}
  </fieldset>
{/each}

<style>
  fieldset {
    margin-bottom: 12px;
  }
</style>

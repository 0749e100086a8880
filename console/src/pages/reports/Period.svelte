<script lang="ts">
  import type { Query } from '../../lib/router.svelte';

  /** The days a report is of. */
  let { query, ongo }: { query: Query; ongo: (days: Record<string, string>) => void } = $props();
</script>

<form class="form-row unprinted" aria-label="Period">
  {#each [['begin', 'From'], ['end', 'To']] as const as [name, label] (name)}
    <label class="field"
      ><span>{label}</span><input
        type="date"
        value={query[name] ?? ''}
        onchange={(event) => ongo({ [name]: event.currentTarget.value })}
      /></label
    >
  {/each}
  <p class="soft">Without days the last ninety.</p>
</form>

<script lang="ts">
  import type { Ordering } from './ordering.svelte';

  let { acts }: { acts: Ordering } = $props();
</script>

<details>
  <summary>Ask for more …</summary>
  <form
    class="form-row"
    onsubmit={(event) => {
      event.preventDefault();
      void acts.ask();
    }}
  >
    <label class="field"
      ><span>How many</span><input
        type="number"
        min="1"
        required
        bind:value={acts.said.count}
      /></label
    >
    <label class="field"
      ><span>Needed by</span><input type="date" bind:value={acts.said.needed_by} /></label
    >
    <label class="field"
      ><span>Term from</span><input type="date" bind:value={acts.said.begins} /></label
    >
    <label class="field"
      ><span>Term to, if it ends</span><input type="date" bind:value={acts.said.ends} /></label
    >
    <label class="field"
      ><span>What for</span><input required maxlength="300" bind:value={acts.said.reason} /></label
    >
    <button class="button" disabled={acts.busy}>Ask for them</button>
  </form>
</details>

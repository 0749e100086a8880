<script lang="ts">
  import type { Naming } from './naming.svelte';

  /** New keys for what runs with theirs; the old ones work on beside them for some days. */
  let { naming }: { naming: Naming } = $props();
  const said = $derived(naming.said);
</script>

<form
  class="form-row"
  aria-label="Replace their keys"
  onsubmit={(event) => {
    event.preventDefault();
    void naming.replace();
  }}
>
  <label class="field narrow"
    ><span>Days both work</span><input
      type="number"
      min="0"
      max="90"
      required
      bind:value={said.days}
    /></label
  >
  <label class="field"
    ><span>Why</span><input required maxlength="300" bind:value={said.reason} /></label
  >
  <button class="button do" disabled={naming.load.acting}>Replace their keys</button>
  <p class="soft">
    Whoever answers for each gets a link to the new key; the old ones end after these days, at the
    latest with the access.
  </p>
</form>

<style>
  .narrow input {
    width: 5rem;
  }
  p {
    flex-basis: 100%;
    margin: 0;
  }
</style>

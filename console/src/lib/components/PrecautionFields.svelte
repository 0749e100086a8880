<script lang="ts">
  import PickMoment from './pick/PickMoment.svelte';
  import type { Planning } from '../plan.svelte';

  let { plan }: { plan: Planning } = $props();
</script>

<fieldset>
  <legend>What is done; nothing is freed or handed over</legend>
  <label class="check"
    ><input type="radio" name="measure" value="suspend" bind:group={plan.measure} /> Suspended everywhere,
    with every way in ended</label
  >
  <label class="check"
    ><input type="radio" name="measure" value="secure" bind:group={plan.measure} /> Secured anew while
    working on: sessions end, credentials are new, keys go on</label
  >
</fieldset>
<label class="field"
  ><span>Ground (administrators read it, nobody else)</span><input
    bind:value={plan.ground}
    required
  /></label
>
<PickMoment label="To be looked at again" bind:value={plan.review} required />

<style>
  fieldset {
    border: 0;
    padding: 0;
    margin: 0;
    display: grid;
    gap: 6px;
  }
</style>

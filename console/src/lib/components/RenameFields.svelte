<script lang="ts">
  import PickMoment from './pick/PickMoment.svelte';
  import type { Planning } from '../plan.svelte';

  let { plan }: { plan: Planning } = $props();
</script>

<div class="two">
  <label class="field"><span>Given name</span><input bind:value={plan.given} /></label>
  <label class="field"><span>Family name</span><input bind:value={plan.family} /></label>
</div>
<button
  class="button"
  type="button"
  onclick={() => plan.suggest()}
  disabled={plan.busy || !plan.family}>Suggest login and address</button
>
<div class="two">
  <label class="field"><span>New login</span><input bind:value={plan.login} /></label>
  <label class="field"><span>Mail address</span><input bind:value={plan.mail} /></label>
</div>
<label class="check"
  ><input type="checkbox" bind:checked={plan.sensitive} /> Hide the former name from everybody but administrators</label
>
{#if plan.sensitive}
  <PickMoment
    label="Mail to the old address arrives unseen until (left out: it bounces)"
    bind:value={plan.until}
  />
{/if}
{#if plan.tried.length}
  <ul class="soft">
    {#each plan.tried as t (t.name + t.pattern)}<li>{t.name || t.pattern}: {t.problem}</li>{/each}
  </ul>
{/if}

<style>
  .two {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 12px;
  }
  .button {
    justify-self: start;
  }
</style>

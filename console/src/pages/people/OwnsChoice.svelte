<script lang="ts">
  import { plural } from '../../lib/format';
  import OwnsHome from './OwnsHome.svelte';
  import type { Handing, Home } from './handing.svelte';

  /** Who takes over one kind of thing or some of them, that they go with the account, or that it is kept for them. */
  let { handing, login }: { handing: Handing; login: string } = $props();
  const row = $derived(handing.open!);
  const said = $derived(handing.said);
  const HOMES: [Home, string][] = [
    ['to', 'To somebody'],
    ['copies', 'Somebody gets a copy, it goes with the account'],
    ['goes', 'Goes with the account'],
    ['keeps', 'The account is kept for it']
  ];
</script>

<form
  class="form-row"
  aria-label="Settle {row.thing}"
  onsubmit={(event) => {
    event.preventDefault();
    void handing.settle();
  }}
>
  <b>{plural(row.count, row.thing)} in {row.application_name}</b>
  <fieldset>
    <legend class="visually-hidden">Its new home</legend>
    {#each HOMES as [value, words] (value)}
      <label class="check"
        ><input type="radio" name="home" {value} bind:group={said.home} /> {words}</label
      >
    {/each}
  </fieldset>
  <OwnsHome {handing} {login} />
  <label class="field"
    ><span>Only those called (* is any text)</span><input
      maxlength="200"
      placeholder="all of them"
      bind:value={said.matching}
    /></label
  >
  <label class="check"
    ><input type="checkbox" bind:checked={said.everywhere} /> In every application</label
  >
  <label class="field"
    ><span>Why</span><input required maxlength="300" bind:value={said.reason} /></label
  >
  <button class="button do" disabled={handing.load.acting}>Settle it</button>
  <button class="button plain" type="button" onclick={() => (handing.open = null)}>Leave it</button>
</form>

<style>
  fieldset {
    display: flex;
    flex-wrap: wrap;
    flex-basis: 100%;
    gap: 0.25rem 1rem;
  }
</style>

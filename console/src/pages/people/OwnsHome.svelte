<script lang="ts">
  import PickMoment from '../../lib/components/pick/PickMoment.svelte';
  import PickPerson from '../../lib/components/pick/PickPerson.svelte';
  import type { Handing } from './handing.svelte';

  /** What the chosen new home needs to be told. */
  let { handing, login }: { handing: Handing; login: string } = $props();
  const said = $derived(handing.said);
</script>

{#if said.home === 'goes'}
  <label class="field"
    ><span>It does not come back. Type {login}</span><input
      class="mono"
      required
      bind:value={said.typed}
    /></label
  >
{:else if said.home === 'to' || said.home === 'copies'}
  <PickPerson
    label={said.home === 'to' ? 'Who takes over' : 'Who gets a copy'}
    bind:value={handing.said.to}
  />
  {#if said.home === 'to'}
    {#each said.share as other (other)}
      <PickPerson label="And, in an equal share" bind:value={other.who} />
    {/each}
    <button class="button slim plain" type="button" onclick={() => said.share.push({ who: '' })}
      >Share it with somebody …</button
    >
  {/if}
{:else}
  <PickMoment label="Until (empty: until it is ended)" bind:value={handing.said.until} />
{/if}

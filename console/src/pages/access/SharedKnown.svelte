<script lang="ts">
  import Moment from '../../lib/components/Moment.svelte';
  import PickPerson from '../../lib/components/pick/PickPerson.svelte';
  import { session } from '../../lib/session.svelte';
  import type { Sharing } from './sharing.svelte';

  /** Who knows a shared credential; who left does until it is changed. */
  let { it }: { it: Sharing } = $props();
  const zone = $derived(session.zone);
</script>

<h3>Who knows it</h3>
<ul>
  {#each it.knowers.data ?? [] as one (one.person_id)}
    <li>
      <b>{one.display_name}</b>
      <span class="soft">since <Moment at={one.since} {zone} /></span>
      {#if one.left_at}<span class="short">left <Moment at={one.left_at} {zone} /></span>{/if}
      {#if session.mayAct}
        <button
          class="button slim"
          type="button"
          aria-label="Take out {one.display_name}"
          disabled={it.busy}
          onclick={() => void it.know([], [one.user_name])}>Take out</button
        >
      {/if}
    </li>
  {:else}
    <li class="soft">Nobody is named.</li>
  {/each}
</ul>
{#if session.mayAct}
  <div class="add">
    <PickPerson label="Somebody who knows it from now on" bind:value={it.who} />
    <button
      class="button"
      type="button"
      disabled={it.busy || !it.who}
      onclick={() => void it.know([it.who], [])}>Add</button
    >
  </div>
{/if}

<style>
  ul {
    list-style: none;
    margin: 0 0 8px;
    padding: 0;
  }
  li {
    display: flex;
    gap: 10px;
    align-items: center;
    flex-wrap: wrap;
    padding: 3px 0;
  }
  .add {
    display: grid;
    grid-template-columns: 1fr auto;
    gap: 10px;
    align-items: end;
  }
</style>

<script lang="ts">
  import type { Schemas } from '../api';
  import type { Listing } from '../listing.svelte';
  import { Keeping } from '../views.svelte';
  import ProblemNote from './ProblemNote.svelte';

  interface Props {
    list: Listing<{ id: string }>;
    page: Schemas['ListName'];
    views: Schemas['ViewRow'][];
    here: Schemas['ViewRow'] | undefined;
  }
  let { list, page, views, here }: Props = $props();
  // svelte-ignore state_referenced_locally
  const keeping = new Keeping(page, here);
  const mine = $derived(views.filter((view) => view.mine));
  const start = $derived(views.find((view) => view.start));
</script>

<h2>Views</h2>
<form
  onsubmit={(event) => {
    event.preventDefault();
    void keeping.keep(list.query, mine);
  }}
>
  <label class="field"
    ><span>Keep the list as it is now under the name</span><input
      required
      maxlength="60"
      bind:value={keeping.name}
    /></label
  >
  <label class="check"
    ><input type="checkbox" bind:checked={keeping.shared} />Other operators see it too</label
  >
  <p><button class="button do" disabled={keeping.busy}>{keeping.verb(mine)}</button></p>
</form>
<ProblemNote problem={keeping.problem} />
{#if views.length}
  <ul>
    {#each views as view (view.id)}
      <li>
        <b>{view.name}</b>
        <span class="soft"
          >{view.mine ? (view.shared ? 'yours, shared' : 'yours') : `of ${view.owner}`}</span
        >
        {#if view.id === start?.id}
          <span class="soft">, your start</span>
          <button class="bare link" onclick={() => keeping.start('')}
            >start with the day sheet</button
          >
        {:else}
          <button class="bare link" onclick={() => keeping.start(view.id)}
            >start with {view.name}</button
          >
        {/if}
        {#if view.mine}
          <button class="bare link" onclick={() => keeping.drop(view.id)}>drop {view.name}</button>
        {/if}
      </li>
    {/each}
  </ul>
{/if}

<style>
  ul {
    list-style: none;
    padding: 0;
    margin: 0;
  }
  li {
    padding: 5px 0;
    border-bottom: 1px solid var(--color-surface-300-700);
  }
  .link {
    margin-left: 12px;
  }
</style>

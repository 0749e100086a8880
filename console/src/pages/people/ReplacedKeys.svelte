<script lang="ts">
  import Moment from '../../lib/components/Moment.svelte';
  import { session } from '../../lib/session.svelte';
  import type { Naming, NewKey } from './naming.svelte';

  /** Which keys took the place of theirs, and whether whoever answers for them has fetched them. */
  let { naming, keys }: { naming: Naming; keys: NewKey[] } = $props();
</script>

<div class="scroll">
  <table class="list">
    <caption>Keys that took the place of theirs</caption>
    <thead
      ><tr
        ><th scope="col">Place</th><th scope="col">Key of</th><th scope="col">The old one works</th
        ><th scope="col">The new one</th></tr
      ></thead
    >
    <tbody>
      {#each keys as key (key.id)}
        <tr>
          <th scope="row" class="name">{key.place}</th>
          <td>{key.to_name}</td>
          <td
            >{#if key.until}until <Moment at={key.until} zone={session.zone} />{:else}no more{/if}</td
          >
          <td>
            {#if key.opened_at}fetched <Moment at={key.opened_at} zone={session.zone} />
            {:else if key.told_at}{key.told_to} was told and has not fetched it
            {:else}{key.contact || 'The help desk'} is being told{/if}
            {#if key.unopened && key.told_at && session.mayAct}
              <button
                class="button slim plain"
                disabled={naming.load.acting}
                onclick={() => void naming.tell(key)}>Send another link</button
              >
            {/if}
          </td>
        </tr>
      {/each}
    </tbody>
  </table>
</div>

<style>
  .name {
    color: inherit;
  }
  caption {
    text-align: left;
  }
  .scroll {
    margin-bottom: 0.75rem;
  }
</style>

<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import { momentOf } from '../../lib/format';
  import type { Wish } from '../../lib/plan.svelte';
  import { href } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';

  interface Props {
    row: Schemas['GroupRow'];
    onwish: (name: string, wish: Wish) => void;
    onchange: () => void;
  }
  let { row, onwish, onchange }: Props = $props();
  const retired = $derived(row.state === 'deleted');
  const quick = (action: Schemas['Quick']) =>
    onwish(row.name, { verb: 'account', action, accounts: [row.id] });
</script>

<tr>
  <td class="name">
    {row.name}
    {#if row.description}<div class="soft">{row.description}</div>{/if}
  </td>
  <td>{row.application_name}</td>
  <td>
    {#if row.owner_id}
      <a href={href({ page: 'person', who: row.owner_id })}>{row.owner_name}</a>
      {#if row.owner_left}<b class="open">has left</b>{/if}
    {:else}<b class="open">nobody</b>{/if}
  </td>
  <td class="wrap">{row.address}</td>
  <td>{row.outside_senders}</td>
  <td class="mono">{row.members}</td>
  <td>
    {#if retired}retired, back until {row.back_until
        ? momentOf(row.back_until, session.zone)
        : 'further notice'}{:else}in use{/if}
  </td>
  <td>
    {#if session.mayAct && retired}
      <button
        class="button slim"
        aria-label="Bring back … {row.name}"
        onclick={() => quick('restore')}>Bring back …</button
      >
    {:else if session.mayAct}
      <button class="button slim" aria-label="Change … {row.name}" onclick={onchange}
        >Change …</button
      >
      <button class="button slim" aria-label="Retire … {row.name}" onclick={() => quick('delete')}
        >Retire …</button
      >
    {/if}
  </td>
</tr>

<style>
  .wrap {
    overflow-wrap: anywhere;
  }
</style>

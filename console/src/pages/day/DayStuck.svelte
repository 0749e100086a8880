<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import Later from '../../lib/components/Later.svelte';
  import { typing } from '../../lib/keys.svelte';
  import { href } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';

  let { rows }: { rows: Schemas['Stuck'][] } = $props();
  const SHOWN = 3;
  let open = $state('');
  let box: HTMLElement;
  const opened = $derived(rows.find((row) => row.step_id === open));

  /** The next one that can be settled, from the first on. */
  function next(event: KeyboardEvent): void {
    if (event.key !== 's' || event.ctrlKey || event.metaKey || event.altKey || open) return;
    if (typing(event.target)) return;
    const buttons = [...box.querySelectorAll('button')];
    buttons[
      (buttons.indexOf(document.activeElement as HTMLButtonElement) + 1) % buttons.length
    ]?.focus();
  }
</script>

<svelte:window onkeydown={next} />
<section class="sheet" class:warn={rows.length > 0} bind:this={box}>
  <h2>Stuck</h2>
  {#each rows.slice(0, SHOWN) as row (row.step_id)}
    <div class="one">
      <a class="within" href={href({ page: 'docket', name: row.number })}>{row.display_name}</a>
      · {row.application_name}: {row.problem}
      {#if session.mayAct}
        <button
          class="bare link"
          aria-label="Settle … {row.display_name}, {row.application_name}"
          onclick={() => (open = row.step_id)}>Settle …</button
        >
      {/if}
    </div>
  {:else}
    <div class="soft">Nothing waits for anybody.</div>
  {/each}
  {#if rows.length > SHOWN}
    <div><a class="within" href={href({ page: 'waiting' })}>and {rows.length - SHOWN} more</a></div>
  {/if}
</section>
{#if opened}
  <Later load={() => import('./SettleDialog.svelte')} row={opened} onclose={() => (open = '')} />
{/if}

<style>
  .one + .one {
    margin-top: 4px;
  }
</style>

<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import type { Wish } from '../../lib/plan.svelte';
  import { href } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';

  /** What can be done with somebody, and the docket that is at it. */
  interface Props {
    view: Schemas['PersonView'];
    onwish: (wish: Wish) => void;
    onopen: (what: 'correct' | 'decide') => void;
  }
  let { view, onwish, onopen }: Props = $props();
  const running = $derived(
    view.dockets.find((d) => d.state === 'running' || d.state === 'scheduled')
  );
  const who = $derived([view.id]);
</script>

<div class="buttons">
  {#if running}
    <a class="button" href={href({ page: 'docket', name: running.number })}
      >Docket {running.number}</a
    >
  {/if}
  {#if session.mayAct}
    <button class="button" onclick={() => onopen('correct')}>Correct …</button>
    <button class="button" onclick={() => onopen('decide')}>Decide …</button>
    {#if view.contract_ends}
      <button class="button" onclick={() => onwish({ verb: 'extension', who })}>Extend</button>
    {/if}
    {#if view.state === 'left' || view.state === 'absent'}
      <button class="button do" onclick={() => onwish({ verb: 'returner', who })}>Bring back</button
      >
    {:else}
      {#if view.state === 'active'}
        <button class="button" onclick={() => onwish({ verb: 'mover', who })}>Move</button>
        <button class="button" onclick={() => onwish({ verb: 'rename', who })}>Rename</button>
        <button class="button" onclick={() => onwish({ verb: 'absence', who })}>Absent</button>
        <button class="button" onclick={() => onwish({ verb: 'account', who, measure: 'suspend' })}
          >Precaution …</button
        >
        <button class="button" onclick={() => onwish({ verb: 'leaver', who })}>Leaves …</button>
        <button class="button cut" onclick={() => onwish({ verb: 'leaver', who, urgent: true })}
          >Cut off now</button
        >
      {:else}
        <button class="button do" onclick={() => onwish({ verb: 'joiner', who })}
          >Prepare joining</button
        >
      {/if}
    {/if}
  {/if}
</div>

<style>
  .buttons {
    display: flex;
    gap: 8px;
    align-items: flex-start;
    align-content: flex-start;
    justify-content: flex-end;
    flex-wrap: wrap;
  }
  @media (max-width: 1000px) {
    .buttons {
      justify-content: flex-start;
    }
  }
</style>

<script lang="ts">
  /** Tick done, dashed ring settling, ring due, triangle stuck, dash nothing to do. */
  let { state }: { state: string } = $props();
  const stuck = $derived(state === 'waiting' || state === 'attention' || state === 'stuck');
</script>

<svg width="17" height="20" viewBox="0 0 17 14" aria-hidden="true">
  {#if state === 'done'}
    <path d="M1 7l5 5L16 2" class="tick" />
  {:else if stuck}
    <path d="M8.5 1l8 12h-16z" class="stuck" />
  {:else if state === 'left_out' || state === 'none'}
    <path d="M3 7h11" class="dash" />
  {:else}
    <circle cx="8.5" cy="7" r="5" class={state === 'due' ? 'ring' : 'ring settling'} />
  {/if}
</svg>

<style>
  svg {
    flex: none;
    height: 20px;
    padding: 3px 0;
    box-sizing: border-box;
  }
  path,
  circle {
    fill: none;
  }
  .tick {
    stroke: var(--color-success-600-400);
    stroke-width: 2.2;
  }
  .stuck {
    fill: var(--color-error-500);
  }
  .dash {
    stroke: var(--color-surface-300-700);
    stroke-width: 2;
  }
  .ring {
    stroke: var(--color-surface-600-400);
    stroke-width: 1.6;
  }
  .settling {
    stroke: var(--color-primary-600-400);
    stroke-dasharray: 3 2.4;
    stroke-width: 2;
  }
</style>

<script lang="ts">
  interface Props {
    state: string;
    locked?: boolean;
    invited?: boolean;
  }
  let { state, locked = false, invited = false }: Props = $props();
  const word = $derived(invited ? 'invited, not accepted' : locked ? 'locked, takes mail' : state);
  const look = $derived(invited ? 'invited' : state);
</script>

<span class="state">
  <svg width="16" height="12" viewBox="0 0 16 12" aria-hidden="true" class={look}>
    {#if state === 'deleted'}
      <path d="M1 1H15L15 11z" />
    {:else if state === 'purged' || state === 'left'}
      <path d="M4 2l8 8M12 2l-8 8" class="cross" />
    {:else}
      <rect x="1" y="1" width="14" height="10" rx="1" />
    {/if}
  </svg>
  {word}
</span>

<style>
  .active {
    fill: var(--color-success-600-400);
    stroke: var(--color-success-600-400);
  }
  .suspended,
  .absent {
    fill: var(--color-surface-100-900);
    stroke: var(--color-warning-600-400);
    stroke-width: 1.4;
  }
  .archived,
  .invited,
  .expected {
    fill: var(--color-surface-100-900);
    stroke: var(--color-tertiary-600-400);
    stroke-width: 1.4;
    stroke-dasharray: 2 2;
  }
  .deleted {
    fill: var(--color-secondary-600-400);
  }
  .cross {
    stroke: var(--color-surface-contrast-50-950);
    stroke-width: 2;
  }
</style>

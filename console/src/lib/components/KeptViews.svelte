<script lang="ts">
  import type { Schemas } from '../api';

  interface Props {
    views: Schemas['ViewRow'][];
    /** The id of the one that is shown. */
    here: string | undefined;
    at: (view: Schemas['ViewRow']) => string;
  }
  /** The views one may see of a list. */
  let { views, here, at }: Props = $props();
</script>

{#if views.length}
  <nav aria-label="Views">
    {#each views as view (view.id)}
      <a href={at(view)} aria-current={view.id === here ? 'true' : undefined}
        >{view.name}{#if !view.mine}<span class="soft"> of {view.owner}</span>{/if}</a
      >
    {/each}
  </nav>
{/if}

<style>
  nav {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 14px;
    align-items: center;
  }
  nav a[aria-current] {
    color: var(--color-surface-contrast-50-950);
    font-weight: 600;
    border-bottom: 2px solid var(--color-surface-contrast-50-950);
  }
</style>

<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import Later from '../../lib/components/Later.svelte';
  import type { Wish } from '../../lib/plan.svelte';

  interface Props {
    view: Schemas['PersonView'];
    open: '' | 'correct' | 'decide';
    wish: Wish | null;
  }
  /** The dialogs of somebody's page: what is said about them, then what follows as a plan. */
  let { view, open = $bindable(), wish = $bindable() }: Props = $props();
</script>

{#if open}
  <Later
    load={() => import('./PersonDialogs.svelte')}
    {view}
    {open}
    close={() => (open = '')}
    onwish={(w) => (wish = w)}
  />
{/if}
{#if wish}
  <Later
    load={() => import('../../lib/components/PlanPanel.svelte')}
    {wish}
    who={view.display_name}
    onclose={() => (wish = null)}
  />
{/if}

<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import StateMark from '../../lib/components/StateMark.svelte';
  import { momentOf, plural } from '../../lib/format';
  import type { Wish } from '../../lib/plan.svelte';
  import { href } from '../../lib/router.svelte';
  import PersonButtons from './PersonButtons.svelte';
  import Moment from '../../lib/components/Moment.svelte';

  interface Props {
    view: Schemas['PersonView'];
    onwish: (wish: Wish) => void;
    onopen: (what: 'correct' | 'decide') => void;
  }
  let { view, onwish, onopen }: Props = $props();
  const days = $derived.by(() => {
    if (!view.access_ends) return null;
    return Math.floor((Date.parse(view.access_ends) - Date.parse(view.now)) / 86_400_000);
  });
</script>

<div class="head">
  <div>
    <h1>{view.display_name}</h1>
    <div class="facts">
      <span>No. <b class="mono">{view.employee_number || '–'}</b></span>
      <span><b>{view.title}</b>, {view.department}, {view.site}</span>
      <span>
        manager
        {#if view.manager}<a href={href({ page: 'person', who: view.manager.id })}
            >{view.manager.name}</a
          >{:else}none{/if}
      </span>
      <StateMark state={view.state} />
      {#if days !== null && days >= 0}
        <span class="tag"
          ><Moment
            at={view.access_ends!}
            zone={view.time_zone}
            told={days === 0 ? 'leaves within a day' : `leaves in ${plural(days, 'day')}`}
          /></span
        >
      {:else if view.access_ends}
        <span class="tag">left {momentOf(view.access_ends, view.time_zone)}</span>
      {/if}
    </div>
  </div>
  <PersonButtons {view} {onwish} {onopen} />
</div>

<style>
  .head {
    display: grid;
    grid-template-columns: minmax(360px, 1fr) auto;
    gap: 18px;
  }
  @media (max-width: 1000px) {
    .head {
      grid-template-columns: minmax(0, 1fr);
      gap: 0;
      margin-bottom: 14px;
    }
  }
</style>

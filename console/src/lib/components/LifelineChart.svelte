<script lang="ts">
  import type { Schemas } from '../api';
  import { Lifeline } from '../lifeline.svelte';
  import { session } from '../session.svelte';
  import LifelineDrawing from './LifelineDrawing.svelte';
  import LifelineLegend from './LifelineLegend.svelte';
  import LifelineTable from './LifelineTable.svelte';
  import LifelineZoom from './LifelineZoom.svelte';

  let { view }: { view: Schemas['PersonView'] } = $props();
  const line = new Lifeline(
    () => view,
    () => session.zone
  );
</script>

<section class="sheet" aria-label="Lifeline">
  <div class="tools">
    <LifelineZoom {line} />
    <button class="button plain small" onclick={() => (line.table = !line.table)}>
      {line.table ? 'as a picture' : 'as a table'}
    </button>
  </div>
  {#if line.table}
    <LifelineTable lanes={line.lanes} />
  {:else}
    <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
    <div
      bind:clientWidth={line.width}
      tabindex="0"
      role="application"
      aria-label="Lifeline: arrows walk the events, t shows a table"
      onkeydown={(e) => line.key(e)}
    >
      <LifelineDrawing {line} ends={view.access_ends} />
      <p class="spoken" aria-live="polite">{line.spoken}</p>
    </div>
  {/if}
  <LifelineLegend />
</section>

<style>
  .sheet {
    position: relative;
  }
  .tools {
    position: absolute;
    right: 14px;
    bottom: 8px;
    display: flex;
    gap: 8px;
    align-items: center;
  }
  .spoken {
    margin: 0;
    min-height: 18px;
    font-size: 12.5px;
    color: var(--color-surface-600-400);
  }
  .tools .button {
    font-size: 12.5px;
    padding: 2px 4px;
    color: var(--color-primary-600-400);
  }
</style>

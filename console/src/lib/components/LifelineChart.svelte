<script lang="ts">
  import type { Schemas } from '../api';
  import { Lifeline, ROW, TOP } from '../lifeline.svelte';
  import { session } from '../session.svelte';
  import LifelineBars from './LifelineBars.svelte';
  import LifelineLegend from './LifelineLegend.svelte';
  import LifelineMarks from './LifelineMarks.svelte';
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
      <svg width={line.width} height={line.height} aria-hidden="true">
        <LifelineLegend defs />
        {#each line.rules as rule (rule.x)}
          <path d="M{rule.x} 26V{line.height}" class="month" />
          <text x={rule.x + 4} y="14" class="soft-text">{rule.label}</text>
        {/each}
        {#each line.lanes as lane, index (index)}
          {@const y = TOP + index * ROW}
          <path d="M0 {y + 31}H{line.width}" class="rule" />
          <text x="0" y={y + 10} class="lane">{lane.name}</text>
          <text x="0" y={y + 24} class="soft-text">{lane.sub}</text>
          <LifelineBars bars={line.drawn(lane)} y={y + 4} />
        {/each}
        <LifelineMarks {line} ends={view.access_ends} />
      </svg>
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
  .month {
    stroke: var(--color-surface-200-800);
  }
  .rule {
    stroke: var(--color-surface-300-700);
  }
  .lane {
    font-size: 13.5px;
    font-weight: 600;
    fill: var(--color-surface-contrast-50-950);
  }
  .soft-text {
    font-size: 11.5px;
    fill: var(--color-surface-600-400);
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

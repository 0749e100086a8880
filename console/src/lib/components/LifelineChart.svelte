<script lang="ts">
  import type { Schemas } from '../api';
  import { Lifeline, ROW, TOP } from '../lifeline.svelte';
  import { session } from '../session.svelte';
  import LifelineBars from './LifelineBars.svelte';
  import LifelineLegend from './LifelineLegend.svelte';
  import LifelineTable from './LifelineTable.svelte';
  import LifelineZoom from './LifelineZoom.svelte';

  let { view }: { view: Schemas['PersonView'] } = $props();
  const line = new Lifeline(
    () => view,
    () => session.zone
  );
  const flag = $derived(view.access_ends ? line.x(Date.parse(view.access_ends)) : null);
  const here = $derived(line.events[line.walked]);
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
        {#if flag !== null && Date.parse(view.access_ends ?? '') > line.now}
          <path d="M{flag} 22V{line.height}" class="flag" />
          <path d="M{flag - 5} 20h10l-5 7z" class="flag-head" />
          <text x={flag + 9} y="29" class="flag-text">access ends</text>
        {/if}
        {#if here}
          <path d="M{line.x(Date.parse(here.at))} 30V{line.height}" class="walk" />
        {/if}
        <path d="M{line.x(line.now)} 20V{line.height}" class="now" />
        <text x={line.x(line.now) - 5} y="14" class="now-text" text-anchor="end">now</text>
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
    stroke: var(--faint);
  }
  .rule {
    stroke: var(--rule);
  }
  .lane {
    font-size: 13.5px;
    font-weight: 600;
    fill: var(--ink);
  }
  .soft-text {
    font-size: 11.5px;
    fill: var(--soft);
  }
  .now {
    stroke: var(--signal);
    stroke-width: 2;
  }
  .now-text {
    font-size: 12px;
    font-weight: 700;
    fill: var(--signal-text);
  }
  .flag {
    stroke: var(--ink);
    stroke-dasharray: 2 3;
  }
  .flag-head {
    fill: var(--ink);
  }
  .flag-text {
    font-size: 12px;
    font-weight: 640;
    fill: var(--ink);
  }
  .walk {
    stroke: var(--accent);
    stroke-width: 2;
  }
  .spoken {
    margin: 0;
    min-height: 18px;
    font-size: 12.5px;
    color: var(--soft);
  }
  .tools .button {
    font-size: 12.5px;
    padding: 2px 4px;
    color: var(--accent);
  }
</style>

<script lang="ts">
  import { ROW, TOP, type Lifeline } from '../lifeline.svelte';
  import LifelineBars from './LifelineBars.svelte';
  import LifelineMarks from './LifelineMarks.svelte';
  import LifelinePatterns from './LifelinePatterns.svelte';

  /** A lane for each account, over time; `ends` is when access does. */
  let { line, ends }: { line: Lifeline; ends: string | null | undefined } = $props();
</script>

<svg width={line.width} height={line.height} aria-hidden="true">
  <LifelinePatterns />
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
  <LifelineMarks {line} {ends} />
</svg>

<style>
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
</style>

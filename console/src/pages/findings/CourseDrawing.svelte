<script lang="ts">
  import { dateOf } from '../../lib/format';
  import { session } from '../../lib/session.svelte';
  import { course, type Point } from './course';

  interface Props {
    found: Point[];
    label: string;
    drawing: SVGSVGElement | undefined;
  }
  let { found, label, drawing = $bindable() }: Props = $props();
  /** Letters keep their size: what is drawn is as wide as there is room. */
  let wide = $state(0);
  const drawn = $derived(course(found, Math.min(900, wide || 900)));
  const day = (of: Point | undefined) => (of ? dateOf(of.day, session.zone) : '');
</script>

<div bind:clientWidth={wide}>
  <svg bind:this={drawing} viewBox="0 0 {drawn.width} {drawn.height}" role="img" aria-label={label}>
    {#each drawn.ticks as tick (tick.count)}
      <path d="M52 {tick.y}H{drawn.width}" class="rule" />
      <text x="46" y={tick.y + 4} text-anchor="end">{tick.count.toLocaleString('en-GB')}</text>
    {/each}
    <path d={drawn.gaps} class="gap" />
    <path d={drawn.line} class="line" />
    <text x="52" y={drawn.height - 6}>{day(found[0])}</text>
    <text x={drawn.width} y={drawn.height - 6} text-anchor="end">{day(found.at(-1))}</text>
  </svg>
</div>

<style>
  svg {
    width: 100%;
    max-width: 900px;
    height: auto;
    display: block;
  }
  text {
    font-size: 11px;
    fill: var(--color-surface-700-300);
  }
  .rule {
    stroke: var(--color-surface-200-800);
  }
  .line,
  .gap {
    fill: none;
    stroke-width: 2;
    stroke: var(--color-surface-600-400);
  }
  .gap {
    stroke-width: 1;
    stroke-dasharray: 3 4;
  }
</style>

<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import { dateOf } from '../../lib/format';
  import type { Chart } from './steps';
  import StepAreas from './StepAreas.svelte';
  import StepTerms from './StepTerms.svelte';

  /** Seats taken against seats bought: past as it was, to come hatched, today a line between. */
  interface Props {
    view: Schemas['ForecastView'];
    zone: string;
    drawn: Chart;
    drawing: SVGSVGElement | undefined;
  }
  let { view, zone, drawn, drawing = $bindable() }: Props = $props();
  const said = $derived(
    view.short_on
      ? `${view.pool.license} runs short on ${dateOf(view.short_on, zone)}`
      : `${view.pool.license} does not run short`
  );
  const floor = $derived(drawn.height - 22);
</script>

<svg
  bind:this={drawing}
  viewBox="0 0 {drawn.width} {drawn.height}"
  role="img"
  aria-label="Seats taken and bought, from thirteen weeks ago on. {said}."
>
  {#each drawn.ticks as tick (tick.count)}
    <path d="M44 {tick.y}H{drawn.width}" class="rule" />
    <text x="38" y={tick.y + 4} text-anchor="end">{tick.count}</text>
  {/each}
  <StepTerms terms={drawn.terms} />
  <StepAreas {drawn} {floor} />
  <path d={drawn.taken} class="taken" />
  <path d={drawn.bought} class="bought" />
  <path d="M{drawn.today} {drawn.top}V{floor}" class="today" />
  <text x={drawn.today} y={drawn.height - 6} text-anchor="middle">today</text>
  <path d="M{drawn.months} {drawn.top}V{floor}" class="rule" />
  <text x={drawn.months} y={drawn.height - 6} text-anchor="middle">by month</text>
  <text x="44" y={drawn.height - 6}>{dateOf(drawn.steps[0]?.begins ?? view.today, zone)}</text>
  <text x={drawn.width} y={drawn.height - 6} text-anchor="end"
    >{dateOf(view.periods.at(-1)?.ends ?? view.today, zone)}</text
  >
</svg>

<style>
  svg {
    width: 100%;
    max-width: 900px;
    height: auto;
  }
  text {
    font-size: 11px;
    fill: var(--color-surface-700-300);
  }
  .rule {
    stroke: var(--color-surface-200-800);
  }
  .taken,
  .bought,
  .today {
    fill: none;
    stroke-width: 2;
  }
  .taken {
    stroke: var(--color-surface-600-400);
  }
  .bought {
    stroke: var(--color-success-600-400);
  }
  .today {
    stroke: var(--color-surface-contrast-50-950);
    stroke-dasharray: 3 3;
  }
</style>

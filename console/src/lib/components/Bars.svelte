<script lang="ts">
  interface Props {
    bars: Array<{ label: string; count: number; says: string }>;
    /** What is drawn. */
    label: string;
    drawing: SVGSVGElement | undefined;
  }
  /** Numbers as bars, one below the other, each with its words. */
  let { bars, label, drawing = $bindable() }: Props = $props();
  const ROW = 24;
  const LETTER = 7.4;
  const WIDTH = 760;
  const longest = $derived(Math.max(0, ...bars.map((b) => b.label.length)));
  const left = $derived(12 + Math.min(40, longest) * LETTER);
  const most = $derived(Math.max(1, ...bars.map((b) => b.count)));
  const height = $derived(bars.length * ROW + 4);
</script>

<svg
  bind:this={drawing}
  viewBox="0 0 {WIDTH} {height}"
  role="img"
  aria-label="{label}: {bars.map((b) => `${b.label} ${b.says}`).join(', ')}"
>
  {#each bars as bar, n (n)}
    <text x={left - 8} y={n * ROW + 17} text-anchor="end">{bar.label}</text>
    <rect
      x={left}
      y={n * ROW + 5}
      width={Math.max(2, (bar.count / most) * (WIDTH - left - 110))}
      height={ROW - 8}
    />
    <text x={left + Math.max(2, (bar.count / most) * (WIDTH - left - 110)) + 6} y={n * ROW + 17}
      >{bar.says}</text
    >
  {/each}
</svg>

<style>
  svg {
    width: 100%;
    max-width: 760px;
    height: auto;
    display: block;
  }
  text {
    font-size: 12px;
    fill: var(--color-surface-contrast-50-950);
  }
  rect {
    fill: var(--color-surface-400-600);
  }
</style>

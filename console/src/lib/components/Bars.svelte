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
  /** Letters keep their size: what is drawn is as wide as there is room. */
  let wide = $state(0);
  const width = $derived(Math.min(760, wide || 760));
  const longest = $derived(Math.max(0, ...bars.map((b) => b.label.length)));
  const left = $derived(12 + Math.min(width / 2 / LETTER, 40, longest) * LETTER);
  const room = $derived(Math.floor((left - 12) / LETTER));
  const short = (text: string) => (text.length > room ? `${text.slice(0, room - 1)}…` : text);
  const most = $derived(Math.max(1, ...bars.map((b) => b.count)));
  const height = $derived(bars.length * ROW + 4);
</script>

<div bind:clientWidth={wide}>
  <svg
    bind:this={drawing}
    viewBox="0 0 {width} {height}"
    role="img"
    aria-label="{label}: {bars.map((b) => `${b.label} ${b.says}`).join(', ')}"
  >
    {#each bars as bar, n (n)}
      <text x={left - 8} y={n * ROW + 17} text-anchor="end">{short(bar.label)}</text>
      <rect
        x={left}
        y={n * ROW + 5}
        width={Math.max(2, (bar.count / most) * (width - left - 110))}
        height={ROW - 8}
      />
      <text x={left + Math.max(2, (bar.count / most) * (width - left - 110)) + 6} y={n * ROW + 17}
        >{bar.says}</text
      >
    {/each}
  </svg>
</div>

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

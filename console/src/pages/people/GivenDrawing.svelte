<script lang="ts">
  import { WIDTH, type Drawing } from './given';

  /** What somebody had, on the left, and who has it now; dashed where it is not where it was given to. */
  interface Props {
    drawn: Drawing;
    name: string;
    drawing: SVGSVGElement | undefined;
  }
  let { drawn, name, drawing = $bindable() }: Props = $props();
</script>

<svg
  bind:this={drawing}
  viewBox="0 0 {WIDTH} {drawn.height}"
  role="img"
  aria-label="What {name} had and who has it now; the table says the same."
>
  {#each drawn.lines as line, n (n)}
    <path d={line.path} class={{ line: true, away: !line.stays }} stroke-width={line.width}>
      <title>{line.said}</title>
    </path>
  {/each}
  {#each drawn.things as end (end.name)}
    <text x="292" y={end.y + 4} text-anchor="end">{end.name}</text>
  {/each}
  {#each drawn.holders as end (end.name)}
    <text x="488" y={end.y + 4}>{end.name}</text>
  {/each}
</svg>

<style>
  svg {
    display: block;
    width: min(760px, 100%);
    margin: 8px 0;
  }
  text {
    font-size: 13px;
    fill: var(--color-surface-950-50);
  }
  .line {
    fill: none;
    stroke: var(--color-primary-600-400);
    opacity: 0.75;
  }
  .away {
    stroke: var(--color-surface-600-400);
    stroke-dasharray: 5 4;
  }
</style>

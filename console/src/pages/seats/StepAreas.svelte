<script lang="ts">
  import type { Chart } from './steps';

  /** Seats taken: as it was, to come hatched, and what is lacking. */
  let { drawn, floor }: { drawn: Chart; floor: number } = $props();
</script>

<defs>
  <pattern
    id="ahead"
    width="6"
    height="6"
    patternUnits="userSpaceOnUse"
    patternTransform="rotate(45)"
  >
    <path d="M0 0V6" class="hatch" />
  </pattern>
</defs>
{#each drawn.steps as step (step.begins)}
  <rect
    x={step.x}
    y={step.takenY}
    width={step.width}
    height={floor - step.takenY}
    class={step.ahead ? 'ahead' : 'past'}
  />
  {#if step.taken > step.bought}
    <rect
      x={step.x}
      y={step.takenY}
      width={step.width}
      height={step.boughtY - step.takenY}
      class="short"
    />
  {/if}
{/each}

<style>
  .past {
    fill: var(--color-surface-300-700);
  }
  .ahead {
    fill: url(#ahead);
  }
  .hatch {
    stroke: var(--color-surface-400-600);
    stroke-width: 2;
  }
  .short {
    fill: var(--color-error-600-400);
    opacity: 0.7;
  }
</style>

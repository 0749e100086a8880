<script lang="ts">
  /** What is planned is hatched. */
</script>

<defs>
  {#each ['active', 'suspended', 'deleted'] as state (state)}
    <pattern
      id="hatch-{state}"
      width="6"
      height="6"
      patternUnits="userSpaceOnUse"
      patternTransform="rotate(45)"
    >
      <rect width="6" height="6" class="sheet-fill" />
      <rect width="1.8" height="6" class={state} />
    </pattern>
  {/each}
</defs>

<style>
  .sheet-fill {
    fill: var(--color-surface-100-900);
  }
  .active {
    fill: var(--color-success-600-400);
  }
  .suspended {
    fill: var(--color-warning-600-400);
  }
  .deleted {
    fill: var(--color-secondary-600-400);
  }
</style>

<script lang="ts">
  /** What the patterns of the lifeline mean. */
</script>

<div class="legend small soft">
  <span><i class="box active-box"></i> active</span>
  <span><i class="box suspended-box"></i> suspended</span>
  <span
    ><svg width="16" height="10" aria-hidden="true"><path d="M0 1H16V10z" class="deleted" /></svg> deleted,
    can come back</span
  >
  <span
    ><svg width="12" height="12" aria-hidden="true"
      ><path d="M1 1l10 10M11 1l-10 10" class="cross" /></svg
    > purged</span
  >
  <span>hatched: planned, not yet happened</span>
</div>

<style>
  .deleted {
    fill: var(--color-secondary-600-400);
  }
  .cross {
    stroke: var(--color-surface-contrast-50-950);
    stroke-width: 2;
  }
  .legend {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 22px;
    padding-right: 250px;
  }
  .legend span {
    display: inline-flex;
    gap: 7px;
    align-items: center;
  }
  .box {
    width: 16px;
    height: 8px;
    border: 1.5px solid;
    border-radius: 1px;
  }
  .active-box {
    background: var(--color-success-600-400);
    border-color: var(--color-success-600-400);
  }
  .suspended-box {
    border-color: var(--color-warning-600-400);
  }
  @media (max-width: 800px) {
    .legend {
      padding-right: 0;
      padding-bottom: 30px;
    }
  }
</style>

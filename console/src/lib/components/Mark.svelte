<script lang="ts">
  /** The sign of Yugum: two lanes and the line for now. */
</script>

<div class="brand">
  <svg width="24" height="24" viewBox="0 0 24 24" aria-hidden="true">
    <path d="M2 6h9v5H2zM13 13h9v5h-9z" class="sign" />
    <path d="M12 2v20" class="now" />
  </svg>
  Yugum
</div>

<style>
  .brand {
    display: flex;
    gap: 8px;
    align-items: center;
    font-weight: 760;
    font-size: 19px;
    letter-spacing: -0.02em;
  }
  .sign {
    fill: var(--color-primary-600-400);
  }
  .now {
    stroke: var(--color-error-500);
    stroke-width: 2.2;
  }
</style>

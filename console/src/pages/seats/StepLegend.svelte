<script lang="ts">
  /** What the lines of a step chart are. */
</script>

<p class="small soft">
  <span class="bought"></span> bought <span class="taken"></span> taken (filled: as it was; hatched:
  to come) <span class="short"></span> lacking
</p>

<style>
  span {
    display: inline-block;
    width: 14px;
    height: 3px;
    margin: 0 4px 3px 0;
    vertical-align: middle;
  }
  .bought {
    background: var(--color-success-600-400);
  }
  .taken {
    background: var(--color-surface-600-400);
    margin-left: 14px;
  }
  .short {
    background: var(--color-error-600-400);
    margin-left: 14px;
  }
</style>

<script lang="ts">
  import type { Problem } from '../api';

  let { problem }: { problem: Problem | null } = $props();
</script>

{#if problem}
  <div class="sheet bad" role="alert">
    <b>{problem.message}</b>
    {#if problem.remedy}<div>{problem.remedy}</div>{/if}
  </div>
{/if}

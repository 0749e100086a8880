<script lang="ts">
  import type { Problem } from '../api';

  interface Props {
    problem: Problem | null;
    /** What was typed is right though it looks like a slip. */
    onright?: (place: string) => void;
  }
  let { problem, onright }: Props = $props();
</script>

{#if problem}
  <div class="sheet bad" role="alert" {@attach (node) => node.scrollIntoView({ block: 'nearest' })}>
    <b>{problem.message}</b>
    {#if problem.remedy}<div>{problem.remedy}</div>{/if}
    {#if onright && problem.code === 'doubtful'}
      <button type="button" class="button small" onclick={() => onright(problem.place)}
        >It is right</button
      >
    {/if}
  </div>
{/if}

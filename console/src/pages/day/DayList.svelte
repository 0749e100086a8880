<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import DayLine from './DayLine.svelte';

  interface Props {
    title: string;
    rows: Schemas['DayDocket'][];
    dated: boolean;
  }
  let { title, rows, dated }: Props = $props();
</script>

{#if rows.length}
  <h2>{title}</h2>
  <div class="scroll">
    <table class="list even">
      <tbody>
        {#each rows as row (row.id)}
          <DayLine {row} {dated} />
        {/each}
      </tbody>
    </table>
  </div>
{/if}

<style>
  .even {
    table-layout: fixed;
    min-width: 760px;
  }
</style>

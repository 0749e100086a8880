<script lang="ts">
  import MonthDay from './MonthDay.svelte';
  import type { ShownMonth } from './shown.svelte';

  let { shown }: { shown: ShownMonth } = $props();
</script>

<div class="scroll">
  <table class="month">
    <thead>
      <tr>
        {#each ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'] as name (name)}<th>{name}</th
          >{/each}
      </tr>
    </thead>
    <tbody>
      {#each shown.weeks as week (week[0])}
        <tr>
          {#each week as key (key)}
            <MonthDay {shown} {key} />
          {/each}
        </tr>
      {/each}
    </tbody>
  </table>
</div>

<style>
  .month {
    width: 100%;
    table-layout: fixed;
    border-collapse: collapse;
    min-width: 640px;
  }
  .month th {
    text-align: left;
    border-bottom: 2px solid var(--color-surface-contrast-50-950);
    padding: 4px 6px;
    font-weight: 600;
  }
</style>

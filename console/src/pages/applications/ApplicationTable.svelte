<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import ApplicationLine from './ApplicationLine.svelte';

  let { rows, changed }: { rows: Schemas['ApplicationRow'][]; changed: () => void } = $props();
</script>

<div class="scroll">
  <table class="list">
    <thead>
      <tr
        ><th>Name</th><th>Yugum may</th><th>Last complete reading</th><th class="num">Open</th><th
          class="num">Accounts</th
        ><th>Call</th><th>State</th><th><span class="visually-hidden">What to do</span></th></tr
      >
    </thead>
    <tbody>
      {#each rows as row (row.id)}
        <ApplicationLine {row} {changed} />
      {/each}
    </tbody>
  </table>
</div>

<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import { dateOf } from '../../lib/format';

  let { periods, zone }: { periods: Schemas['PeriodRow'][]; zone: string } = $props();
</script>

<div class="scroll">
  <table class="list">
    <thead>
      <tr
        ><th>From</th><th>To</th><th class="num">Bought</th><th class="num">Taken</th><th
          class="num">Lacking</th
        ><th class="num">Begin</th><th class="num">Leave</th><th class="num">Move, are away</th></tr
      >
    </thead>
    <tbody>
      {#each periods as one (one.begins)}
        <tr>
          <td class="name">{dateOf(one.begins, zone)}</td>
          <td>{dateOf(one.ends, zone)}</td>
          <td class="num mono">{one.bought}</td>
          <td class="num mono">{one.taken}</td>
          <td class="num mono">{one.lacking || ''}</td>
          <td class="num mono">{one.joining || ''}</td>
          <td class="num mono">{one.leaving || ''}</td>
          <td class="num mono">{one.moving > 0 ? `+${one.moving}` : one.moving || ''}</td>
        </tr>
      {/each}
    </tbody>
  </table>
</div>

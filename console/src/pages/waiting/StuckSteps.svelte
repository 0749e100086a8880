<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import { href } from '../../lib/router.svelte';
  import { PLANNED } from '../../lib/words';

  /** Steps that wait for somebody. */
  let { stuck }: { stuck: Schemas['Stuck'][] } = $props();
</script>

{#if stuck.length}
  <h2>Steps that wait</h2>
  <div class="scroll">
    <table class="list">
      <thead>
        <tr
          ><th>Who</th><th>What</th><th>Application</th><th>Why</th><th>Call</th><th>Docket</th></tr
        >
      </thead>
      <tbody>
        {#each stuck as row (row.docket_id + row.action + row.item + row.application_name)}
          <tr>
            <td class="name"
              ><a href={href({ page: 'person', who: row.person_id })}>{row.display_name}</a></td
            >
            <td>{PLANNED[row.action] ?? row.action} {row.item}</td>
            <td>{row.application_name}</td>
            <td>{row.problem}</td>
            <td class="soft">{row.contact}</td>
            <td><a href={href({ page: 'docket', name: row.number })}>{row.number}</a></td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
{/if}

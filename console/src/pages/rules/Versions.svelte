<script lang="ts">
  import { api, got } from '../../lib/api';
  import { momentOf } from '../../lib/format';
  import { ask } from '../../lib/query.svelte';
  import { session } from '../../lib/session.svelte';

  let { current }: { current: number } = $props();
  const load = ask(
    ['rules'],
    () => ['rules/versions'],
    (signal) => got(api.GET('/api/v1/rules/versions', { signal }))
  );
  $effect(() => {
    void current;
    void load.run();
  });
</script>

{#if load.data?.items.length}
  <h2>Versions</h2>
  <div class="scroll">
    <table class="list">
      <thead><tr><th class="num">Version</th><th>Adopted</th><th>By</th><th>Why</th></tr></thead>
      <tbody>
        {#each load.data.items as row (row.version)}
          <tr>
            <td class="num">{row.version}</td>
            <td>{momentOf(row.adopted_at, session.zone)}</td>
            <td>{row.adopted_by}</td>
            <td>{row.note}</td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
{/if}

<script lang="ts">
  import { api, got } from '../../lib/api';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { momentOf, plural } from '../../lib/format';
  import { ask } from '../../lib/query.svelte';
  import { href } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';

  let { docket }: { docket: string } = $props();
  const load = ask(
    ['dockets'],
    () => ['handovers', docket],
    (signal) =>
      got(api.GET('/api/v1/handovers', { params: { query: { docket, limit: 200 } }, signal }))
  );
  const rows = $derived(load.data?.items ?? []);
</script>

<ProblemNote problem={load.problem} />
{#if rows.length}
  <details>
    <summary
      ><b>{plural(load.data?.total ?? rows.length, 'thing')}</b> handed over, each with its new home</summary
    >
    <div class="scroll">
      <table class="list">
        <thead
          ><tr><th>What</th><th>Kind</th><th>Application</th><th>When</th><th>Now with</th></tr
          ></thead
        >
        <tbody>
          {#each rows as row (row.application_name + row.kind + row.name)}
            <tr>
              <td class="name">{row.name}</td>
              <td>{row.kind}{row.copied ? ', a copy' : ''}</td>
              <td>{row.application_name}</td>
              <td>{momentOf(row.at, session.zone)}</td>
              <td>
                {#if row.to_person_id}<a href={href({ page: 'person', who: row.to_person_id })}
                    >{row.to_name}</a
                  >{:else}{row.to_login ?? ''}{/if}
              </td>
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
  </details>
{/if}

<style>
  details {
    margin-top: 14px;
  }
</style>

<script lang="ts">
  import { api, got } from '../../lib/api';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import StateMark from '../../lib/components/StateMark.svelte';
  import { plural } from '../../lib/format';
  import { ask } from '../../lib/query.svelte';
  import { href } from '../../lib/router.svelte';
  import { duty } from '../../lib/words';
  import Declined from './Declined.svelte';

  const load = ask(
    ['people', 'accounts', 'dockets'],
    () => ['people/joiners'],
    (signal) =>
      got(api.GET('/api/v1/people/joiners', { params: { query: { limit: 200 } }, signal }))
  );
  const rows = $derived(load.data?.items ?? []);
  const ready = $derived(rows.filter((r) => r.ready).length);
  const day = (text: string) =>
    new Date(`${text}T12:00:00Z`).toLocaleDateString('en-GB', {
      weekday: 'short',
      day: 'numeric',
      month: 'short',
      year: 'numeric',
      timeZone: 'UTC'
    });
</script>

<svelte:head><title>Joiners · Yugum</title></svelte:head>
<h1>Joiners</h1>
{#if load.data}
  <div class="facts">
    <span><b>{ready} of {rows.length}</b> ready</span>
    <span>who began in the last seven days or begins in the next fourteen</span>
  </div>
{/if}
<ProblemNote problem={load.problem} />
{#if rows.length}
  <div class="scroll">
    <table class="list">
      <thead>
        <tr
          ><th>Name</th><th>First day</th><th>Application</th><th>Missing</th><th>First sign-in</th
          ><th>Account</th></tr
        >
      </thead>
      {#each rows as row (row.id)}
        <tbody>
          {#each row.lines as line, index (line.application_id)}
            <tr>
              {#if index === 0}
                <td class="name" rowspan={row.lines.length}>
                  <a href={href({ page: 'person', who: row.id })}>{row.display_name}</a>
                  <div class="soft">{row.title}, {row.department}</div>
                  <div>
                    {#if row.ready}ready{:else}<b class="open"
                        >{plural(row.lines.filter((l) => l.lacks.length).length, 'application')} not ready</b
                      >{/if}
                  </div>
                </td>
                <td rowspan={row.lines.length}>{day(row.starts)}</td>
              {/if}
              <td>{line.application_name}</td>
              <td>
                {#if line.lacks.length}<b class="open">{line.lacks.join('; ')}</b>{:else}<span
                    class="soft">nothing</span
                  >{/if}
              </td>
              <td
                >{[
                  line.credential,
                  line.lacks.includes(line.tried ?? '') ? '' : line.tried,
                  line.signed_in ? 'has signed in' : '',
                  line.duties?.length ? `to do: ${line.duties.map(duty).join(', ')}` : ''
                ]
                  .filter(Boolean)
                  .join(', ')}</td
              >
              <td>
                {#if line.state}<StateMark
                    state={line.state}
                    invited={!!line.invited_at}
                  />{:else}<span class="soft">not made yet</span>{/if}
              </td>
            </tr>
          {:else}
            <tr>
              <td class="name"
                ><a href={href({ page: 'person', who: row.id })}>{row.display_name}</a></td
              >
              <td>{day(row.starts)}</td>
              <td colspan="4" class="soft">No role gives this person anything.</td>
            </tr>
          {/each}
        </tbody>
      {/each}
    </table>
  </div>
{:else if load.data}
  <p>Nobody begins these days. <a href="/people">New people are added under People</a>.</p>
{/if}

<Declined />

<style>
  td {
    vertical-align: top;
  }
  .open {
    color: var(--color-error-500);
  }
</style>

<script lang="ts">
  import { api, got } from '../../lib/api';
  import Later from '../../lib/components/Later.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { plural } from '../../lib/format';
  import { ask } from '../../lib/query.svelte';
  import type { Wish } from '../../lib/plan.svelte';
  import { href } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import Holds from './Holds.svelte';
  import Moment from '../../lib/components/Moment.svelte';

  const load = ask(
    ['accounts', 'decisions'],
    () => ['last-call'],
    (signal) => got(api.GET('/api/v1/last-call', { signal }))
  );
  const clock = ask(
    ['clock'],
    () => ['clock'],
    (signal) => got(api.GET('/api/v1/clock', { signal }))
  );
  const rows = $derived(load.data?.items ?? []);
  const zone = $derived(session.zone);
  let picked = $state<string[]>([]);
  let wish = $state.raw<Wish | null>(null);

  function left(until: string): string {
    const now = clock.data ? Date.parse(clock.data.now) : Date.now();
    const hours = Math.floor((Date.parse(until) - now) / 3_600_000);
    return hours < 48 ? plural(hours, 'hour') : plural(Math.floor(hours / 24), 'day');
  }
</script>

<svelte:head><title>Last call · Yugum</title></svelte:head>
<h1>Last call</h1>
{#if load.data}
  <div class="facts">
    <span><b>{plural(load.data.total ?? rows.length, 'account')}</b> can still be brought back</span
    >
  </div>
{/if}
<ProblemNote problem={load.problem} />
{#if rows.length}
  <div class="scroll">
    <table class="list">
      <thead>
        <tr
          ><th><span class="visually-hidden">Pick</span></th><th>Left</th><th>Back until</th><th
            >Who</th
          ><th>Application</th><th>Login</th></tr
        >
      </thead>
      <tbody>
        {#each rows as row (row.account_id)}
          <tr>
            <td
              ><input
                type="checkbox"
                value={row.account_id}
                bind:group={picked}
                aria-label="Pick {row.login} in {row.application_name}"
              /></td
            >
            <td class="name">{left(row.recoverable_until)}</td>
            <td
              ><Moment at={row.recoverable_until} {zone} />
              {#if row.held}<span class="tag">on hold</span>{/if}</td
            >
            <td>
              {#if row.person_id}<a href={href({ page: 'person', who: row.person_id })}
                  >{row.display_name}</a
                >{:else}<span class="soft">nobody</span>{/if}
            </td>
            <td>{row.application_name}</td>
            <td class="mono">{row.login}</td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
  {#if session.mayAct}
    <button
      class="button do restore"
      disabled={!picked.length}
      onclick={() => (wish = { verb: 'account', accounts: [...picked], action: 'restore' })}
      >Restore {picked.length ? plural(picked.length, 'account') : 'what is picked'} …</button
    >
  {/if}
{:else if load.data}
  <p>
    Nothing that was deleted can be brought back at the moment, and nothing is about to be lost.
  </p>
{/if}
<Holds onended={() => void load.run()} />
{#if wish}
  <Later
    load={() => import('../../lib/components/PlanPanel.svelte')}
    {wish}
    who={plural(picked.length, 'account')}
    onclose={() => (wish = null)}
  />
{/if}

<style>
  .restore {
    margin-top: 12px;
  }
</style>

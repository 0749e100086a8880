<script lang="ts">
  import { api, got, type Problem } from '../../lib/api';
  import PlanPanel from '../../lib/components/PlanPanel.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { exactly, momentOf, plural } from '../../lib/format';
  import { Load, asProblem } from '../../lib/load.svelte';
  import type { Wish } from '../../lib/plan.svelte';
  import { href } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';

  const load = new Load(() => got(api.GET('/api/v1/last-call')));
  const clock = new Load(() => got(api.GET('/api/v1/clock')));
  const holds = new Load(() =>
    got(api.GET('/api/v1/holds', { params: { query: { limit: 200 } } }))
  );
  void load.run();
  void holds.run();
  void clock.run();
  const rows = $derived(load.data?.items ?? []);
  const zone = $derived(session.zone);
  let picked = $state<string[]>([]);
  let wish = $state.raw<Wish | null>(null);

  let asked = $state('');
  let ending = $state(false);
  let problem = $state<Problem | null>(null);

  async function end(id: string): Promise<void> {
    ending = true;
    try {
      await got(
        api.DELETE('/api/v1/decisions/{decision_id}', { params: { path: { decision_id: id } } })
      );
      problem = null;
    } catch (error) {
      problem = asProblem(error);
    }
    ending = false;
    asked = '';
    await Promise.all([holds.run(), load.run()]);
  }

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
            <td title={exactly(row.recoverable_until, zone)}
              >{momentOf(row.recoverable_until, zone)}
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
{#if holds.data?.items.length}
  <h2>On hold</h2>
  <div class="scroll">
    <table class="list">
      <thead>
        <tr
          ><th>Who or what</th><th>Why</th><th>By</th><th>Until</th>{#if session.mayAct}<th
              ><span class="visually-hidden">End</span></th
            >{/if}</tr
        >
      </thead>
      <tbody>
        {#each holds.data.items as hold (hold.id)}
          <tr>
            <td class="name">
              {#if hold.person_id}<a href={href({ page: 'person', who: hold.person_id })}
                  >{hold.name}</a
                >{:else}{hold.name} <span class="tag">application</span>{/if}
            </td>
            <td>{hold.reason}</td>
            <td>{hold.author}</td>
            <td
              >{#if hold.ends_at}{momentOf(hold.ends_at, zone)}{:else}<span class="soft"
                  >until it is ended</span
                >{/if}</td
            >
            {#if session.mayAct}
              <td
                >{#if asked === hold.id}
                  <button class="button do" disabled={ending} onclick={() => end(hold.id)}
                    >End it now</button
                  >
                  <button class="button" onclick={() => (asked = '')}>Keep it</button>
                {:else}
                  <button
                    class="button"
                    aria-label="End the hold on {hold.name} …"
                    onclick={() => (asked = hold.id)}>End …</button
                  >
                {/if}</td
              >
            {/if}
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
  <p class="soft note">
    Nothing of these is deleted or purged. Once a hold is ended, what is past its day is closed.
  </p>
{/if}
<ProblemNote problem={problem ?? holds.problem} />
{#if wish}
  <PlanPanel {wish} who={plural(picked.length, 'account')} onclose={() => (wish = null)} />
{/if}

<style>
  .restore,
  .note {
    margin-top: 12px;
  }
</style>

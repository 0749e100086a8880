<script lang="ts">
  import { api, got } from '../../lib/api';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { Load } from '../../lib/load.svelte';
  import { session } from '../../lib/session.svelte';
  import NewIntegration from './NewIntegration.svelte';

  let adding = $state(false);
  let asked = $state('');
  const load = new Load(() =>
    got(api.GET('/api/v1/integrations', { params: { query: { limit: 200 } } }))
  );
  const ending = new Load(async () => {
    await got(api.DELETE('/api/v1/integrations/{login}', { params: { path: { login: asked } } }));
    asked = '';
    await load.run();
    return true;
  });
  void load.run();
  const rows = $derived((load.data?.items ?? []).filter((row) => row.active));
  const me = $derived(session.view?.operator.login);
</script>

<div class="head">
  <h2>Integrations</h2>
  {#if session.mayAct}
    <button class="button slim" onclick={() => (adding = true)}>New integration …</button>
  {/if}
</div>
<ProblemNote problem={ending.problem ?? load.problem} />
{#if rows.length}
  <div class="scroll">
    <table class="list">
      <thead>
        <tr
          ><th>Login</th><th>Name</th><th>May do as</th><th>Answers for it</th><th
            ><span class="visually-hidden">End</span></th
          ></tr
        >
      </thead>
      <tbody>
        {#each rows as row (row.login)}
          <tr>
            <td class="name mono">{row.login}</td>
            <td>{row.name}</td>
            <td>{row.role}</td>
            <td class="mono">{row.owner}</td>
            <td>
              {#if row.owner !== me && !session.mayAdminister}<span class="soft"></span>
              {:else if asked === row.login}
                <button
                  class="button cut slim"
                  disabled={ending.busy}
                  onclick={() => void ending.run()}>End it, and its tokens</button
                >
                <button class="button plain slim" onclick={() => (asked = '')}>Keep it</button>
              {:else}
                <button
                  class="button slim"
                  aria-label="End {row.login} …"
                  onclick={() => (asked = row.login)}>End …</button
                >
              {/if}
            </td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
{:else if load.data}
  <p class="soft">
    None. An integration is a program with tokens of its own; when who answers for it leaves, their
    successor does, and it goes on.
  </p>
{/if}
<NewIntegration open={adding} onclose={() => (adding = false)} onmade={() => void load.run()} />

<style>
  .head {
    display: flex;
    align-items: baseline;
    gap: 14px;
  }
</style>

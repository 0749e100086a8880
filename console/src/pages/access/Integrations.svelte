<script lang="ts">
  import { api, got } from '../../lib/api';
  import Confirm from '../../lib/components/Confirm.svelte';
  import Later from '../../lib/components/Later.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { Load } from '../../lib/load.svelte';
  import { ask } from '../../lib/query.svelte';
  import { session } from '../../lib/session.svelte';

  let adding = $state(false);
  let asked = '';
  const load = ask(
    ['access'],
    () => ['integrations'],
    (signal) => got(api.GET('/api/v1/integrations', { params: { query: { limit: 200 } }, signal }))
  );
  const ending = new Load(async () => {
    await got(api.DELETE('/api/v1/integrations/{login}', { params: { path: { login: asked } } }));
    await load.run();
    return true;
  });

  function end(login: string): void {
    asked = login;
    void ending.run();
  }

  const rows = $derived((load.data?.items ?? []).filter((row) => row.active));
  const me = $derived(session.view?.operator.login);
</script>

<div class="titled">
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
              {#if row.owner === me || session.mayAdminister}
                <Confirm
                  text="End …"
                  label="End {row.login} …"
                  sure="End it, and its tokens"
                  busy={ending.busy}
                  cut
                  slim
                  ondo={() => end(row.login)}
                />
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
{#if adding}
  <Later
    load={() => import('./NewIntegration.svelte')}
    onclose={() => (adding = false)}
    onmade={() => void load.run()}
  />
{/if}

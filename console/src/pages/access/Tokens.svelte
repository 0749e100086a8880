<script lang="ts">
  import { api, got } from '../../lib/api';
  import Confirm from '../../lib/components/Confirm.svelte';
  import Later from '../../lib/components/Later.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { dateOf } from '../../lib/format';
  import { Load } from '../../lib/load.svelte';
  import { ask } from '../../lib/query.svelte';
  import { session } from '../../lib/session.svelte';

  let adding = $state(false);
  let asked = '';
  const load = ask(
    ['access'],
    () => ['tokens'],
    (signal) => got(api.GET('/api/v1/tokens', { signal }))
  );
  const revoking = new Load(async () => {
    const params = { path: { token_id: asked } };
    await got(api.DELETE('/api/v1/tokens/{token_id}', { params }));
    await load.run();
    return true;
  });

  function revoke(id: string): void {
    asked = id;
    void revoking.run();
  }

  const rows = $derived(load.data ?? []);
</script>

<div class="titled">
  <h2>API tokens</h2>
  <button class="button slim" onclick={() => (adding = true)}>New token …</button>
</div>
<ProblemNote problem={revoking.problem ?? load.problem} />
{#if rows.length}
  <div class="scroll">
    <table class="list">
      <thead>
        <tr
          ><th>Name</th><th>Of</th><th>May do as</th><th>Until</th><th
            ><span class="visually-hidden">Revoke</span></th
          ></tr
        >
      </thead>
      <tbody>
        {#each rows as row (row.id)}
          <tr>
            <td class="name">{row.name}</td>
            <td class="mono">{row.of}</td>
            <td>{row.scopes.join(', ')}</td>
            <td
              >{#if row.expires}{dateOf(row.expires, session.zone)}{:else}<span class="soft"
                  >until it is revoked</span
                >{/if}</td
            >
            <td>
              <Confirm
                text="Revoke …"
                label="Revoke the token {row.name} …"
                sure="Revoke it now"
                busy={revoking.busy}
                cut
                slim
                ondo={() => revoke(row.id)}
              />
            </td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
{:else if load.data}
  <p class="soft">None. A token lets the command line, or a program, work as you.</p>
{/if}
{#if adding}
  <Later
    load={() => import('./NewToken.svelte')}
    onclose={() => (adding = false)}
    onmade={() => void load.run()}
  />
{/if}

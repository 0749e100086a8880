<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import Confirm from '../../lib/components/Confirm.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { Load } from '../../lib/load.svelte';
  import { ROLES } from './roles';

  interface Props {
    row: Schemas['OperatorRow'];
    onchanged: () => void;
  }
  let { row, onchanged }: Props = $props();
  let change = $state<Schemas['OperatorChange']>({});
  const path = $derived({ path: { operator_id: row.id } });
  const changing = new Load(async () => {
    await got(api.PATCH('/api/v1/operators/{operator_id}', { params: path, body: change }));
    onchanged();
    return true;
  });
  const link = new Load(() =>
    got(api.POST('/api/v1/operators/{login}/link', { params: { path: { login: row.login } } }))
  );

  function become(wanted: Schemas['OperatorChange']): void {
    change = wanted;
    void changing.run();
  }
</script>

<tr>
  <td class="name mono">{row.login}</td>
  <td>{row.name}</td>
  <td>
    <select
      aria-label="Role of {row.login}"
      value={row.role}
      disabled={changing.busy || !row.active}
      onchange={(event) => become({ role: event.currentTarget.value as (typeof ROLES)[number] })}
    >
      {#each ROLES as role (role)}<option>{role}</option>{/each}
    </select>
  </td>
  <td>{row.active ? 'active' : 'disabled'}</td>
  <td>
    {#if !row.active}
      <button class="button slim" onclick={() => become({ active: true })}>Enable</button>
    {:else}
      <button class="button slim" onclick={() => void link.run()}>Sign-in link</button>
      <Confirm
        text="Disable …"
        label="Disable {row.login} …"
        sure="Disable: sessions and tokens end"
        busy={changing.busy}
        cut
        slim
        ondo={() => become({ active: false })}
      />
    {/if}
    {#if link.data}
      <p class="link">
        <span class="mono">{link.data.link}</span><br />
        <span class="soft">Works once; an earlier one has ended.</span>
      </p>
    {/if}
    <ProblemNote problem={changing.problem ?? link.problem} />
  </td>
</tr>

<style>
  .link {
    margin: 6px 0 0;
    overflow-wrap: anywhere;
  }
  select {
    font: inherit;
    color: var(--color-surface-contrast-50-950);
    background: var(--color-surface-100-900);
    border: 1px solid var(--color-surface-300-700);
    border-radius: 4px;
    padding: 2px 6px;
  }
</style>

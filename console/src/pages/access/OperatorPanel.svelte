<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import Confirm from '../../lib/components/Confirm.svelte';
  import Panel from '../../lib/components/Panel.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { Load } from '../../lib/load.svelte';
  import { changed } from '../../lib/query.svelte';
  import { href } from '../../lib/router.svelte';
  import { ROLES } from './roles';

  /** One operator: the role, a link to sign in with, and whether they work with Yugum at all. */
  let { row, onclose }: { row: Schemas['OperatorRow']; onclose: () => void } = $props();
  let wanted = $state<Schemas['OperatorChange']>({});
  // svelte-ignore state_referenced_locally
  let role = $state(row.role);
  const changing = new Load(async () => {
    const params = { path: { operator_id: row.id } };
    await got(api.PATCH('/api/v1/operators/{operator_id}', { params, body: wanted }));
    changed(['access']);
    return true;
  });
  const link = new Load(() =>
    got(api.POST('/api/v1/operators/{login}/link', { params: { path: { login: row.login } } }))
  );

  function become(change: Schemas['OperatorChange']): void {
    wanted = change;
    void changing.run();
  }
</script>

<Panel open title="{row.name}, {row.login}" {onclose}>
  <form
    onsubmit={(event) => {
      event.preventDefault();
      become({ role: role as (typeof ROLES)[number] });
    }}
  >
    <p>
      {row.active ? 'Works with Yugum' : 'Is disabled: no session, token or link is left'}.
      {#if row.person_id}
        <a class="within" href={href({ page: 'person', who: row.person_id })}>Who it is</a>
      {/if}
    </p>
    <label class="field"
      ><span>Role</span><select bind:value={role} disabled={!row.active}>
        {#each ROLES as one (one)}<option>{one}</option>{/each}
      </select></label
    >
    {#if link.data}
      <p class="sheet mono link">{link.data.link}</p>
      <p class="soft">Hand it over in person. It works once; an earlier one has ended.</p>
    {/if}
    <ProblemNote problem={changing.problem ?? link.problem} />
    <div class="buttons">
      {#if row.active}
        <Confirm
          text="Disable …"
          label="Disable {row.login} …"
          sure="Disable: sessions and tokens end"
          busy={changing.busy}
          cut
          ondo={() => become({ active: false })}
        />
        <button class="button" type="button" disabled={link.busy} onclick={() => void link.run()}
          >Sign-in link</button
        >
      {:else}
        <button class="button" type="button" onclick={() => become({ active: true })}>Enable</button
        >
      {/if}
      <button class="button plain" type="button" onclick={onclose}>Close</button>
      <button class="button do" disabled={changing.busy || role === row.role}
        >Change the role</button
      >
    </div>
  </form>
</Panel>

<style>
  .link {
    overflow-wrap: anywhere;
  }
</style>

<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import Panel from '../../lib/components/Panel.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { Load } from '../../lib/load.svelte';
  import { session } from '../../lib/session.svelte';
  import PasswordField from './PasswordField.svelte';
  import { ROLES } from './roles';

  interface Props {
    onclose: () => void;
    onmade: () => void;
  }
  let { onclose, onmade }: Props = $props();
  let body = $state<Schemas['NewToken'] & { days: number }>({
    name: '',
    scope: 'viewer',
    days: 90,
    password: '',
    integration: ''
  });
  const me = $derived(session.view!.operator.login);
  const owned = new Load(() =>
    got(api.GET('/api/v1/integrations', { params: { query: { limit: 200 } } }))
  );
  const mine = $derived((owned.data?.items ?? []).filter((i) => i.owner === me && i.active));
  const make = new Load(async () => {
    const made = await got(api.POST('/api/v1/tokens', { body }));
    body.password = '';
    onmade();
    return made;
  });

  void owned.run();
</script>

<Panel open title="New API token" {onclose}>
  {#if make.data}
    <p>This is the token. It is shown this once; keep it where secrets are kept.</p>
    <p class="sheet mono token">{make.data.token}</p>
    <p><button class="button do" onclick={onclose}>I have it</button></p>
  {:else}
    <form
      class="form"
      onsubmit={(event) => {
        event.preventDefault();
        void make.run();
      }}
    >
      <label class="field"
        ><span>What it is for</span><input required bind:value={body.name} /></label
      >
      <label class="field"
        ><span>May do as</span><select bind:value={body.scope}>
          {#each ROLES as role (role)}<option>{role}</option>{/each}
        </select></label
      >
      <label class="field"
        ><span>Days it is good for</span><input
          type="number"
          min="1"
          max="3650"
          required
          bind:value={body.days}
        /></label
      >
      <label class="field"
        ><span>Of</span><select bind:value={body.integration}>
          <option value="">{me}</option>
          {#each mine as one (one.login)}<option value={one.login}>{one.login}</option>{/each}
        </select></label
      >
      <PasswordField bind:value={body.password} />
      <ProblemNote problem={make.problem} />
      <p>
        <button class="button do" disabled={make.busy}>Make it</button>
        <button type="button" class="button plain" onclick={onclose}>Leave it</button>
      </p>
    </form>
  {/if}
</Panel>

<style>
  .token {
    margin: 10px 0;
    overflow-wrap: anywhere;
  }
</style>

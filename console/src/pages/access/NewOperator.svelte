<script lang="ts">
  import PickPerson from '../../lib/components/pick/PickPerson.svelte';
  import { api, got, type Schemas } from '../../lib/api';
  import Panel from '../../lib/components/Panel.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { Load } from '../../lib/load.svelte';
  import { changed } from '../../lib/query.svelte';
  import { ROLES } from './roles';

  let { onclose }: { onclose: () => void } = $props();
  let body = $state<Schemas['NewOperator']>({ login: '', name: '', role: 'operator', person: '' });
  const make = new Load(async () => {
    const made = await got(api.POST('/api/v1/operators', { body }));
    changed(['access']);
    return made;
  });
</script>

<Panel open title="New operator" {onclose}>
  {#if make.data}
    <p>Hand this link over in person. It signs in once, and a password is set then.</p>
    <p class="sheet mono link">{make.data.link}</p>
    <p><button class="button do" onclick={onclose}>I have it</button></p>
  {:else}
    <form
      class="form"
      onsubmit={(event) => {
        event.preventDefault();
        void make.run();
      }}
    >
      <label class="field"><span>Login</span><input required bind:value={body.login} /></label>
      <label class="field"><span>Name</span><input required bind:value={body.name} /></label>
      <label class="field"
        ><span>Role</span><select bind:value={body.role}>
          {#each ROLES as role (role)}<option>{role}</option>{/each}
        </select></label
      >
      <PickPerson
        label="Who of the people it is (mail goes there)"
        bind:value={() => body.person ?? '', (v) => (body.person = v)}
      />
      <ProblemNote problem={make.problem} />
      <p>
        <button class="button do" disabled={make.busy}>Add</button>
        <button type="button" class="button plain" onclick={onclose}>Leave it</button>
      </p>
    </form>
  {/if}
</Panel>

<style>
  .link {
    margin: 10px 0;
    overflow-wrap: anywhere;
  }
</style>

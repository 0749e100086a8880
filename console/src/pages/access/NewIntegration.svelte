<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import Panel from '../../lib/components/Panel.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { Load } from '../../lib/load.svelte';
  import { changed } from '../../lib/query.svelte';
  import { ROLES } from './roles';

  let { onclose }: { onclose: () => void } = $props();
  let body = $state<Schemas['NewIntegration']>({ login: '', name: '', role: 'viewer' });
  const make = new Load(async () => {
    const made = await got(api.POST('/api/v1/integrations', { body }));
    changed(['access']);
    onclose();
    return made;
  });
</script>

<Panel open title="New integration" {onclose}>
  <form
    class="form"
    onsubmit={(event) => {
      event.preventDefault();
      void make.run();
    }}
  >
    <p class="soft">You answer for it. Give it a token afterwards, under API tokens.</p>
    <label class="field"><span>Login</span><input required bind:value={body.login} /></label>
    <label class="field"><span>Name</span><input required bind:value={body.name} /></label>
    <label class="field"
      ><span>May do as</span><select bind:value={body.role}>
        {#each ROLES as role (role)}<option>{role}</option>{/each}
      </select></label
    >
    <ProblemNote problem={make.problem} />
    <p>
      <button class="button do" disabled={make.busy}>Add it</button>
      <button type="button" class="button plain" onclick={onclose}>Leave it</button>
    </p>
  </form>
</Panel>

<script lang="ts">
  import Panel from '../../lib/components/Panel.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { NewToken } from './newToken.svelte';
  import PasswordField from './PasswordField.svelte';
  import { ROLES } from './roles';

  let { onclose }: { onclose: () => void } = $props();
  const it = new NewToken();
  const { body, make } = it;
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
          <option value="">{it.me}</option>
          {#each it.mine as one (one.login)}<option value={one.login}>{one.login}</option>{/each}
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

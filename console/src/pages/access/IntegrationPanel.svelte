<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import Confirm from '../../lib/components/Confirm.svelte';
  import Panel from '../../lib/components/Panel.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { Load } from '../../lib/load.svelte';
  import { changed } from '../../lib/query.svelte';
  import { session } from '../../lib/session.svelte';

  /** One integration: somebody else answers for it, or it ends. */
  let { row, onclose }: { row: Schemas['IntegrationRow']; onclose: () => void } = $props();
  const params = $derived({ path: { login: row.login } });
  const mine = $derived(
    row.active && (row.owner === session.view?.operator.login || session.mayAdminister)
  );
  let owner = $state('');
  const passing = new Load(async () => {
    await got(api.PATCH('/api/v1/integrations/{login}', { params, body: { owner } }));
    owner = '';
    changed(['access']);
    return true;
  });
  const ending = new Load(async () => {
    await got(api.DELETE('/api/v1/integrations/{login}', { params }));
    changed(['access']);
    onclose();
    return true;
  });
</script>

<Panel open title="{row.name}, {row.login}" {onclose}>
  <form
    onsubmit={(event) => {
      event.preventDefault();
      void passing.run();
    }}
  >
    <p>
      {#if row.active}Works as {row.role}; <b class="mono">{row.owner}</b> answers for it.
      {:else}Has ended: its tokens are gone.{/if}
    </p>
    {#if mine}
      <label class="field"
        ><span>Who answers for it from now on</span><input
          class="mono"
          required
          maxlength="60"
          placeholder="An operator’s login"
          bind:value={owner}
        /></label
      >
    {/if}
    <ProblemNote problem={passing.problem ?? ending.problem} />
    <div class="buttons">
      {#if mine}
        <Confirm
          text="End …"
          label="End {row.login} …"
          sure="End it, and its tokens"
          busy={ending.busy}
          cut
          ondo={() => void ending.run()}
        />
      {/if}
      <button class="button plain" type="button" onclick={onclose}>Close</button>
      {#if mine}
        <button class="button do" disabled={passing.busy || !owner}>Pass it on</button>
      {/if}
    </div>
  </form>
</Panel>

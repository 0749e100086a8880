<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import Confirm from '../../lib/components/Confirm.svelte';
  import type { DocketState } from '../../lib/docket.svelte';

  interface Props {
    docket: DocketState;
    view: Schemas['DocketView'];
    onundo: () => void;
  }
  /** What can be done with a docket: told, recorded, undone, called off, ended. */
  let { docket, view, onundo }: Props = $props();
  const record = (form: string): string =>
    `/api/v1/dockets/${encodeURIComponent(view.number)}/record?form=${form}`;
  let ending = $state(false);
  let reason = $state('');
  const begun = $derived(
    ['done', 'running', 'superseded'].includes(view.state) && view.steps.length > 0
  );
</script>

<div class="buttons">
  {#if view.withheld}
    <Confirm
      text="Send the notices"
      label="Send the notices"
      sure="Send them: it is no secret any more"
      keep="Withhold them"
      busy={false}
      ondo={() => void docket.tell()}
    />
  {/if}
  {#if begun}
    <a class="button" href={record('html')} target="_blank" rel="noopener">Record</a>
    <a class="button" href={record('csv')} download="{view.number}.csv">as CSV</a>
    <button class="button" onclick={onundo}>Undo …</button>
  {/if}
  {#if view.state === 'scheduled' || view.state === 'awaiting'}<button
      class="button"
      onclick={() => docket.cancel()}>Cancel it</button
    >{/if}
  {#if view.state === 'running' && view.steps_stuck}
    {#if ending}
      <form
        onsubmit={(event) => {
          event.preventDefault();
          void docket.end(reason);
        }}
      >
        <input
          class="why"
          aria-label="Why it is ended here"
          placeholder="why it is ended here"
          bind:value={reason}
        />
        <button class="button do" disabled={!reason.trim()}>End it here</button>
        <small class="soft">What is not begun is left out and stays a difference.</small>
      </form>
    {:else}
      <button class="button" onclick={() => (ending = true)}>End it here …</button>
    {/if}
  {/if}
</div>

<style>
  .buttons {
    display: flex;
    gap: 8px;
    align-items: flex-start;
    flex-wrap: wrap;
  }
  form {
    display: flex;
    gap: 8px;
  }
</style>

<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import { capital } from '../../lib/format';
  import { href } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import Moment from '../../lib/components/Moment.svelte';

  interface Props {
    view: Schemas['DocketView'];
    onundo: () => void;
    oncancel: () => void;
    onend: (reason: string) => void;
  }
  let { view, onundo, oncancel, onend }: Props = $props();
  const record = (form: string): string =>
    `/api/v1/dockets/${encodeURIComponent(view.number)}/record?form=${form}`;
  let ending = $state(false);
  let reason = $state('');
  const begun = $derived(
    ['done', 'running', 'superseded'].includes(view.state) && view.steps.length > 0
  );
</script>

<div class="head">
  <div>
    <h1>
      {capital(view.title)}:
      <a href={href({ page: 'person', who: view.subject_id })}>{view.subject_name}</a>
      <span class="mono soft number">{view.number}</span>
    </h1>
    <div class="facts">
      <span>{view.outcome}</span>
      <span>due <b><Moment at={view.due_at} zone={session.zone} /></b></span>
      <span>by <b>{view.author}</b></span>
      {#if view.reference}<span>reference <b class="mono">{view.reference}</b></span>{/if}
      {#if view.reason}<span>{view.reason}</span>{/if}
    </div>
  </div>
  {#if session.mayAct}
    <div class="buttons">
      {#if begun}
        <a class="button" href={record('html')} target="_blank" rel="noopener">Record</a>
        <a class="button" href={record('csv')} download="{view.number}.csv">as CSV</a>
        <button class="button" onclick={onundo}>Undo …</button>
      {/if}
      {#if view.state === 'scheduled' || view.state === 'awaiting'}<button
          class="button"
          onclick={oncancel}>Cancel it</button
        >{/if}
      {#if view.state === 'running' && view.steps_stuck}
        {#if ending}
          <form
            onsubmit={(event) => {
              event.preventDefault();
              onend(reason);
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
  {/if}
</div>

<style>
  .head {
    display: flex;
    justify-content: space-between;
    gap: 18px;
  }
  h1 a {
    color: inherit;
  }
  .buttons {
    display: flex;
    gap: 8px;
    align-items: flex-start;
    flex-wrap: wrap;
  }
  a.button {
    text-decoration: none;
  }
  form {
    display: flex;
    gap: 8px;
  }
  .number {
    font-size: 17px;
    font-weight: 500;
    letter-spacing: 0;
  }
</style>

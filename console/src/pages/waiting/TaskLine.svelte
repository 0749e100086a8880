<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { Load } from '../../lib/load.svelte';
  import { href } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import Moment from '../../lib/components/Moment.svelte';

  interface Props {
    row: Schemas['TaskRow'];
    changed: () => void;
  }
  let { row, changed }: Props = $props();
  let how = $state<'' | 'done' | 'refuse'>('');
  let text = $state('');
  const zone = $derived(session.zone);
  const send = new Load(async () => {
    const params = { path: { task_id: row.id } };
    if (how === 'done')
      await got(api.POST('/api/v1/tasks/{task_id}/done', { params, body: { evidence: text } }));
    else await got(api.POST('/api/v1/tasks/{task_id}/refuse', { params, body: { reason: text } }));
    changed();
    return true;
  });
</script>

<tr>
  <td class="name">{row.instructions}</td>
  <td>{row.contact || row.application_name}</td>
  <td class="soft"><Moment at={row.made_at} {zone} /></td>
  <td class:short={row.escalated_at !== null}><Moment at={row.due_at} {zone} /></td>
  <td>
    <a href={href({ page: 'docket', name: row.number })}>{row.number}</a>
    <span class="soft">{row.subject_name}</span>
  </td>
  <td>
    {#if how}
      <form
        onsubmit={(e) => {
          e.preventDefault();
          void send.run();
        }}
      >
        <input
          aria-label={how === 'done' ? 'What proves it' : 'Why not'}
          placeholder={how === 'done' ? 'What proves it' : 'Why not'}
          bind:value={text}
          required={how === 'refuse'}
        />
        <button class="button slim" disabled={send.busy}
          >{how === 'done' ? 'Done' : 'Refuse'}</button
        >
        <button class="button slim" type="button" onclick={() => (how = '')}>Back</button>
      </form>
      <ProblemNote problem={send.problem} />
    {:else}
      <span class="both">
        <button class="button slim" onclick={() => (how = 'done')}>Done …</button>
        <button class="button slim" onclick={() => (how = 'refuse')}>Refuse …</button>
      </span>
    {/if}
  </td>
</tr>

<style>
  .short {
    color: var(--color-error-600-400);
    font-weight: 700;
  }
  form,
  .both {
    display: flex;
    gap: 6px;
    flex-wrap: wrap;
  }
</style>

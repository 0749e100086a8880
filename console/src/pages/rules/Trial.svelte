<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import { plural } from '../../lib/format';
  import { href } from '../../lib/router.svelte';

  let { trial }: { trial: Schemas['TrialView'] } = $props();
  const tasks = $derived(Object.entries(trial.tasks));
  const approvals = $derived(Object.entries(trial.approvals));
</script>

<div class="facts" role="status">
  <span><b>{plural(trial.looked_at, 'person', 'people')}</b> looked at</span>
  <span><b>{trial.people}</b> gain or lose something</span>
  <span><b>{trial.gained}</b> gained</span>
  <span class:short={trial.lost > 0}><b>{trial.lost}</b> lost, from {trial.losing}</span>
</div>
{#each trial.short as row (row.license)}
  <p class="short">
    {row.application_id}: {plural(row.lacking, 'seat')} of {row.license}
    {row.lacking === 1 ? 'is' : 'are'} missing ({row.free} free).
  </p>
{/each}
{#if approvals.length}<p>
    {approvals.map(([name, count]) => `${plural(count, 'approval')} by ${name}`).join(', ')}.
  </p>{/if}
{#if tasks.length}<p>
    {tasks.map(([name, count]) => `${count} tasks in ${name}`).join(', ')}.
  </p>{/if}
{#if trial.lines.length}
  <div class="scroll">
    <table class="list">
      <thead>
        <tr
          ><th>Application</th><th>What</th><th class="num">Gain it</th><th class="num">Lose it</th
          ><th>Role</th><th>Such as</th></tr
        >
      </thead>
      <tbody>
        {#each trial.lines as line (line.application_id + line.kind + line.item)}
          <tr>
            <td>{line.application_id}</td>
            <td class="name">{line.kind} {line.item}</td>
            <td class="num">{line.gained || ''}</td>
            <td class="num short">{line.lost || ''}</td>
            <td>{line.roles.join(', ')}</td>
            <td class="soft">
              {#each line.samples.slice(0, 3) as sample, index (sample.id)}{index ? ', ' : ''}<a
                  href={href({ page: 'person', who: String(sample.user_name) })}>{sample.name}</a
                >{/each}
            </td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
{:else}
  <p>Nobody gains or loses anything.</p>
{/if}

<style>
  .short,
  .short b {
    color: var(--color-error-600-400);
  }
</style>

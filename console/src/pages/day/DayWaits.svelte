<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import { Figures } from '../../lib/figures.svelte';
  import { plural } from '../../lib/format';
  import { href } from '../../lib/router.svelte';

  type Count = keyof Omit<Schemas['Figures'], 'over'>;
  const figures = new Figures();
  const LINES: [Count, string, string, string][] = [
    ['approvals', 'approval', 'approvals', href({ page: 'waiting' })],
    ['tasks', 'task of an application', 'tasks of applications', href({ page: 'waiting' })],
    ['waiting_seats', 'person waits for a seat', 'wait for seats', href({ page: 'seats' })],
    [
      'asked',
      'has not said whether they take something over',
      'have not said whether they take something over',
      href({ page: 'waiting' })
    ],
    [
      'failed_mails',
      'mail could not be sent',
      'mails could not be sent',
      href({ page: 'mails', query: { unsent: 'true' } })
    ],
    ['findings', 'finding', 'findings', href({ page: 'findings' })]
  ];
  const lines = $derived.by(() => {
    const { data } = figures.asked;
    return LINES.flatMap(([name, one, many, to]) => {
      const count = data?.[name] ?? 0;
      const over = data?.over?.includes(name) ? 'over ' : '';
      const late =
        name === 'tasks' && data?.late_tasks ? `, ${data.late_tasks} past their time` : '';
      return count ? [{ name, to, text: over + plural(count, one, many) + late }] : [];
    });
  });
</script>

<!-- What waits for somebody to act, each line where it can be done. -->
{#if lines.length}
  <nav class="waits" aria-label="What waits for somebody">
    <span class="soft">Waits for somebody:</span>
    {#each lines as line (line.name)}<a href={line.to}>{line.text}</a>{/each}
  </nav>
{/if}

<style>
  .waits {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 20px;
    margin: 0 0 14px;
  }
</style>

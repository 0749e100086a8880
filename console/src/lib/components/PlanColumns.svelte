<script lang="ts">
  import type { Schemas } from '../api';
  import { PLANNED } from '../words';

  let { plan, name }: { plan: Schemas['PlanView']; name: (id: string) => string } = $props();

  const GOES = ['revoke', 'free_seat', 'cut_off', 'transfer'];
  const BECOMES = ['update', 'set'];
  type Line = { key: string; where: string; what: string; because: string };
  const line = (step: Schemas['PlanView']['steps'][number], index: number): Line => ({
    key: `${index}`,
    where: name(step.application_id),
    what: step.item || (PLANNED[step.action] ?? step.action),
    because: BECOMES.includes(step.action) ? `→ ${step.after}, ${step.reason}` : step.reason
  });
  const columns = $derived<[string, Line[]][]>([
    ['Goes', plan.steps.filter((s) => GOES.includes(s.action)).map(line)],
    [
      'Stays',
      plan.stays.map((s, index) => ({
        key: `${index}`,
        where: name(s.application),
        what: s.item,
        because: s.reason
      }))
    ],
    ['Comes', plan.steps.filter((s) => !GOES.includes(s.action)).map(line)]
  ]);
</script>

<div class="columns">
  {#each columns as [title, lines] (title)}
    <section aria-label={title}>
      <h3>{title} <span class="soft">{lines.length}</span></h3>
      <ul>
        {#each lines as entry (entry.key)}
          <li>
            <b>{entry.what}</b> <span class="soft">{entry.where}</span>
            <div class="soft small">{entry.because}</div>
          </li>
        {:else}
          <li class="soft">nothing</li>
        {/each}
      </ul>
    </section>
  {/each}
</div>

<style>
  .columns {
    display: grid;
    grid-template-columns: repeat(3, 1fr);
    gap: 20px;
  }
  h3 {
    font-size: 14px;
    font-weight: 700;
    border-bottom: 2px solid var(--color-surface-contrast-50-950);
    padding-bottom: 4px;
  }
  li {
    border-bottom: 1px solid var(--color-surface-300-700);
    padding: 6px 0;
  }
  .small {
    font-size: 12.5px;
  }
  @media (max-width: 700px) {
    .columns {
      grid-template-columns: 1fr;
    }
  }
</style>

<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { capital, dateOf } from '../../lib/format';
  import { savePicture, saveTable } from '../../lib/picture';
  import { ask } from '../../lib/query.svelte';
  import { session } from '../../lib/session.svelte';
  import { FINDINGS } from '../../lib/words';
  import { dayKey } from '../calendar/month';
  import CourseDrawing from './CourseDrawing.svelte';
  import { points, said, untilNow } from './course';

  /** How many there were on each day of the last ninety, of one kind or of all. */
  let { kind, now }: { kind: string; now: Schemas['FindingCount'][] } = $props();
  const load = ask(
    ['findings'],
    () => ['findings/days'],
    (signal) => got(api.GET('/api/v1/findings/days', { params: { query: { limit: 200 } }, signal }))
  );
  const today = $derived(session.clock ? dayKey(session.clock.now, session.zone) : '');
  const found = $derived(points(untilNow(load.data?.items ?? [], today, now), kind));
  const words = $derived(
    kind ? (FINDINGS[kind as Schemas['FindingKind']] ?? kind) : 'all findings'
  );
  const text = $derived(said(found, (day) => dateOf(day, session.zone)));
  const name = $derived(`${words} until ${found.at(-1)?.day ?? ''}`);
  let drawing = $state<SVGSVGElement>();
</script>

<ProblemNote problem={load.problem} />
{#if load.data}
  <p class="soft">
    {capital(words)}: {text} Counted as they stood on each day, today as they stand; a gap is a day on
    which nobody counted.
  </p>
{/if}
{#if found.length > 1}
  <CourseDrawing {found} label="{words}: {text}" bind:drawing />
  <p>
    <button class="button plain" onclick={() => drawing && savePicture(drawing, `${name}.png`)}
      >As PNG</button
    >
    <button
      class="button plain"
      onclick={() =>
        saveTable(
          ['day', 'found'],
          found.map((p) => [p.day, p.count]),
          `${name}.csv`
        )}>As CSV</button
    >
  </p>
{/if}

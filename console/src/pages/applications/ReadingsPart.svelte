<script lang="ts">
  import { api, got } from '../../lib/api';
  import Bars from '../../lib/components/Bars.svelte';
  import Moment from '../../lib/components/Moment.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { momentOf, plural } from '../../lib/format';
  import { ask } from '../../lib/query.svelte';
  import { session } from '../../lib/session.svelte';

  /** The latest readings of an application: what each found, and how many accounts there were. */
  let { id }: { id: string } = $props();
  const SHOWN = 12;
  const load = ask(
    ['applications', 'accounts'],
    () => ['readings', id],
    (signal) =>
      got(
        api.GET('/api/v1/applications/{application_id}/readings', {
          params: { path: { application_id: id }, query: { limit: SHOWN } },
          signal
        })
      )
  );
  const WORDS: [string, string][] = [
    ['new', 'new'],
    ['changed', 'changed'],
    ['gone', 'gone'],
    ['outside', 'changed outside']
  ];
  let drawing = $state<SVGSVGElement>();
  const rows = $derived(load.data?.items ?? []);
  const whole = $derived(
    rows
      .filter((r) => r.counts.accounts)
      .slice(0, 8)
      .reverse()
  );
  const bars = $derived(
    whole.map((r) => ({
      label: momentOf(r.began_at, session.zone),
      count: r.counts.accounts ?? 0,
      says: plural(r.counts.accounts ?? 0, 'account')
    }))
  );
  const found = (counts: Record<string, number>): string =>
    WORDS.flatMap(([name, word]) => (counts[name] ? [`${counts[name]} ${word}`] : [])).join(', ') ||
    'as before';
</script>

<h2>Readings</h2>
{#if session.clock?.simulated}<p class="soft">
    By the machine’s own clock, not the simulated one.
  </p>{/if}
<ProblemNote problem={load.problem} />
{#if rows.length}
  {#if bars.length > 1}<Bars {bars} label="Accounts at each reading" bind:drawing />{/if}
  <div class="scroll">
    <table class="list">
      <thead
        ><tr
          ><th scope="col">Begun</th><th scope="col">What</th><th scope="col" class="num"
            >Accounts</th
          ><th scope="col">Found</th><th scope="col">By</th><th scope="col">State</th></tr
        ></thead
      >
      <tbody>
        {#each rows as row (row.id)}
          <tr>
            <td class="name"><Moment at={row.began_at} zone={session.zone} /></td>
            <td>{row.mode === 'full' ? 'everything' : 'changes only'}</td>
            <td class="num mono">{row.counts.accounts ?? '–'}</td>
            <td>{found(row.counts)}</td>
            <td class="soft">{row.author}</td>
            <td class={{ short: row.problem !== '' }}>{row.problem || row.state}</td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
{:else if load.data}<p>It has not been read yet.</p>{/if}

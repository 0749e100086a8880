<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { clockOf, longDay, plural } from '../../lib/format';
  import { Load } from '../../lib/load.svelte';
  import { href } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import { VERBS } from '../../lib/words';
  import { dayKey, monthDays, monthName, shifted } from './month';

  type Entry = Schemas['CalendarEntry'];
  let month = $state('');
  let day = $state('');
  const zone = $derived(session.zone);

  const load = new Load(async () => {
    const clock = await got(api.GET('/api/v1/clock'));
    const today = dayKey(clock.now, session.zone);
    if (!month) [month, day] = [today.slice(0, 7), today];
    const days = monthDays(month);
    const entries: Entry[] = [];
    let cursor: string | null | undefined;
    do {
      const query = {
        begin: `${days[0]}T00:00:00Z`,
        until: `${shifted(days[days.length - 1] ?? '', 2)}T00:00:00Z`,
        limit: 200,
        cursor: cursor ?? undefined
      };
      const page = await got(api.GET('/api/v1/calendar', { params: { query } }));
      entries.push(...page.items);
      cursor = page.next;
    } while (cursor && entries.length < 5000);
    return { today, entries };
  });
  void load.run();

  const weeks = $derived.by(() => {
    const days = month ? monthDays(month) : [];
    return Array.from({ length: days.length / 7 }, (_, n) => days.slice(n * 7, n * 7 + 7));
  });
  const byDay = $derived.by(() => {
    const found: Record<string, Entry[]> = {};
    for (const entry of load.data?.entries ?? []) {
      (found[dayKey(entry.at, zone)] ??= []).push(entry);
    }
    return found;
  });
  const KINDS: Record<Entry['kind'], string> = {
    ...VERBS,
    close: 'closing',
    purge: 'window’s end',
    recheck: 'second look',
    remind: 'reminder'
  };
  const MANY: Record<string, string> = { 'window’s end': 'windows’ ends', absence: 'absences' };
  const kindOf = (entry: Entry) => KINDS[entry.kind] ?? entry.kind;

  function summed(entries: Entry[]): string[] {
    const counts: Record<string, number> = {};
    for (const entry of entries) counts[kindOf(entry)] = (counts[kindOf(entry)] ?? 0) + 1;
    return Object.entries(counts).map(([kind, count]) => {
      const word = kind.toLowerCase();
      return plural(count, word, MANY[word]);
    });
  }

  function turn(by: number): void {
    const [year = 0, number = 1] = month.split('-').map(Number);
    const next = new Date(Date.UTC(year, number - 1 + by, 1));
    month = next.toISOString().slice(0, 7);
    day = `${month}-01`;
    void load.run();
  }
</script>

<svelte:head><title>Calendar · Yugum</title></svelte:head>
<h1>{month ? monthName(month) : 'Calendar'}</h1>
<div class="facts">
  {#if load.data}<span
      ><b>{plural(load.data.entries.length, 'entry', 'entries')}</b> in these weeks</span
    >{/if}
  <span><a href="/api/v1/calendar.ics" download="yugum.ics">As iCalendar</a></span>
  <span class="turn">
    <button class="button plain" onclick={() => turn(-1)}>Earlier</button>
    <button class="button plain" onclick={() => turn(1)}>Later</button>
  </span>
</div>
<ProblemNote problem={load.problem} />
<div class="scroll">
  <table class="month">
    <thead>
      <tr>
        {#each ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'] as name (name)}<th>{name}</th
          >{/each}
      </tr>
    </thead>
    <tbody>
      {#each weeks as week (week[0])}
        <tr>
          {#each week as key (key)}
            <td
              class:other={!key.startsWith(month)}
              class:today={key === load.data?.today}
              class:chosen={key === day}
            >
              <button onclick={() => (day = key)} aria-pressed={key === day}>
                <span class="number"
                  >{Number(key.slice(8))}<span class="sr-only">
                    {monthName(key.slice(0, 7))}</span
                  ></span
                >
                {#each summed(byDay[key] ?? []) as line (line)}<span class="line">{line}</span
                  >{/each}
              </button>
            </td>
          {/each}
        </tr>
      {/each}
    </tbody>
  </table>
</div>
{#if day && load.data}
  <h2>{longDay(`${day}T12:00:00Z`, 'UTC')}</h2>
  {#if byDay[day]?.length}
    <div class="scroll">
      <table class="list">
        <thead
          ><tr><th>Name</th><th>Time</th><th>Application</th><th>Because</th><th>What</th></tr
          ></thead
        >
        <tbody>
          {#each byDay[day] ?? [] as entry (entry.id)}
            <tr>
              <td class="name"
                ><a href={href({ page: 'person', who: entry.person_id })}>{entry.display_name}</a
                ></td
              >
              <td>{clockOf(entry.at, zone)}</td>
              <td>{entry.application_name ?? ''}</td>
              <td>{entry.text}</td>
              <td>
                {kindOf(entry)}
                {#if entry.number}<a href={href({ page: 'docket', name: entry.number })}
                    >{entry.number}</a
                  >{/if}
              </td>
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
  {:else}
    <p>Nothing is dated on this day.</p>
  {/if}
{/if}

<style>
  .month {
    width: 100%;
    table-layout: fixed;
    border-collapse: collapse;
    min-width: 640px;
  }
  .month th {
    text-align: left;
    border-bottom: 2px solid var(--ink);
    padding: 4px 6px;
    font-weight: 600;
  }
  .month td {
    border-bottom: 1px solid var(--rule);
    border-right: 1px solid var(--rule);
    padding: 0;
    height: 76px;
    vertical-align: top;
  }
  .month td:last-child {
    border-right: 0;
  }
  .month button {
    width: 100%;
    min-height: 76px;
    text-align: left;
    padding: 4px 6px;
    background: none;
    border: 0;
    color: inherit;
    font: inherit;
    cursor: pointer;
    display: flex;
    flex-direction: column;
  }
  .month button:hover {
    background: var(--faint);
  }
  .number {
    font-weight: 640;
  }
  .line {
    font-size: 12.5px;
    line-height: 17px;
  }
  .other .number {
    color: var(--soft);
    font-weight: 400;
  }
  .today .number {
    color: var(--signal-text);
  }
  .chosen {
    box-shadow: inset 0 0 0 2px var(--ink);
  }
  .turn {
    margin-left: auto;
    display: flex;
    gap: 6px;
  }
  h2 {
    margin: 18px 0 8px;
  }
</style>

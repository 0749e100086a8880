<script lang="ts">
  import type { Snippet } from 'svelte';
  import type { Schemas } from '../api';
  import { href } from '../router.svelte';
  import { session } from '../session.svelte';
  import { SIDES, STANDINGS } from '../words';
  import Moment from './Moment.svelte';

  interface Props {
    rows: Schemas['StandingRow'][];
    named?: boolean;
    /** What can be done about a row. */
    act?: Snippet<[Schemas['StandingRow']]>;
  }
  let { rows, named = false, act }: Props = $props();

  function which(row: Schemas['StandingRow']): string {
    return row.item === 'closing' ? 'is not done' : SIDES[row.side];
  }
  function what(row: Schemas['StandingRow']): string {
    return [row.kind, row.item].filter(Boolean).join(' ');
  }
  function status(row: Schemas['StandingRow']): string {
    if (row.status === 'accepted') return `accepted by ${row.accepted_by}: ${row.accepted_why}`;
    if (row.status === 'waiting') return `waits for ${row.waits}`;
    return row.waits ? `needs ${row.waits}` : STANDINGS[row.status];
  }
</script>

<div class="scroll">
  <table class="list">
    <thead>
      <tr>
        {#if named}<th>Who</th>{/if}
        <th>Application</th><th>What</th><th>Held → should be</th><th>How it stands</th><th
          >Since</th
        >
      </tr>
    </thead>
    <tbody>
      {#each rows as row (`${row.subject_id} ${row.application_id} ${row.account_id} ${row.kind} ${row.item} ${row.side}`)}
        <tr>
          {#if named}
            <td class="name"
              ><a href={href({ page: 'person', who: row.subject_id })}>{row.display_name}</a></td
            >
          {/if}
          <td class:name={!named}
            >{row.application_name}
            {#if row.login}<span class="mono soft">{row.login}</span>{/if}</td
          >
          <td>{what(row)} <b>{which(row)}</b></td>
          <td>{row.held} → {row.want} <span class="soft">because {row.reason}</span></td>
          <td>
            {status(row)}
            {#if row.docket}<a class="within" href={href({ page: 'docket', name: row.docket })}
                >{row.docket}</a
              >{/if}
            {#if row.contact && row.status === 'waiting'}<span class="soft">call {row.contact}</span
              >{/if}
            {@render act?.(row)}
          </td>
          <td class="soft"><Moment at={row.since} zone={session.zone} /></td>
        </tr>
      {/each}
    </tbody>
  </table>
</div>

<script lang="ts">
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import PickPerson from '../../lib/components/pick/PickPerson.svelte';
  import { plural } from '../../lib/format';
  import { session } from '../../lib/session.svelte';
  import { Board, type Settled } from './board.svelte';
  import AskedTable from './AskedTable.svelte';
  import BoardTable from './BoardTable.svelte';

  const board = new Board();
  const WHICH: [Settled, string][] = [
    ['open', 'open'],
    ['to', 'go to somebody'],
    ['goes', 'go with the account'],
    ['copied', 'are copied for somebody'],
    ['kept', 'keep the account'],
    ['', 'all']
  ];
  const file = (form: string): string =>
    `/api/v1/exports/handover?format=${form}${board.settled && `&settled=${board.settled}`}`;
</script>

<svelte:head><title>Handover · Yugum</title></svelte:head>
<h1>Handover</h1>
<p class="soft">
  What people who leave or have left still own, as last seen; whose access ended or ends first
  stands first.
</p>
<fieldset class="chips">
  <legend class="visually-hidden">Which</legend>
  {#each WHICH as [value, words] (value)}
    <label class="check"
      ><input type="radio" name="settled" {value} bind:group={board.settled} /> {words}</label
    >
  {/each}
</fieldset>
<ProblemNote problem={board.load.problem} />
{#if board.rows.length}
  <BoardTable {board} />
  <p class="files unprinted">
    <a class="within" href={file('csv')} download>CSV</a>
    <a class="within" href={file('xlsx')} download>Workbook (XLSX)</a>
    <a class="within" href={file('jsonl')} download>JSON lines</a>
    <button class="button plain" onclick={() => window.print()}>Print …</button>
  </p>
  {#if board.load.data?.next}
    <p class="soft">These are the first; <code>yugum handover list</code> has all of them.</p>
  {/if}
{:else if board.load.data}
  <p>
    {board.settled === 'open' ? 'Nothing is open: everything has a new home.' : 'There is nothing.'}
  </p>
{/if}
{#if session.mayAct && board.chosen.length}
  <form
    class="form-row stays"
    aria-label="Choose for many"
    onsubmit={(event) => {
      event.preventDefault();
      void board.settle();
    }}
  >
    <b>{plural(board.chosen.length, 'line')} chosen</b>
    <PickPerson label="Who takes over" bind:value={board.said.to} />
    <label class="field"
      ><span>Why</span><input required maxlength="300" bind:value={board.said.reason} /></label
    >
    <button class="button do" disabled={board.load.acting}>Settle them</button>
  </form>
{/if}
<AskedTable />

<style>
  .files {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 16px;
    align-items: center;
  }
  .chips {
    display: flex;
    flex-wrap: wrap;
    gap: 1.25rem;
    border: 0;
    padding: 0;
    margin: 0.75rem 0 1rem;
  }
</style>

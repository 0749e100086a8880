<script lang="ts">
  import { api, got } from '../../lib/api';
  import Moment from '../../lib/components/Moment.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { plural } from '../../lib/format';
  import { savePicture, saveTable } from '../../lib/picture';
  import { ask } from '../../lib/query.svelte';
  import { session } from '../../lib/session.svelte';
  import { draw, holderOf } from './given';
  import GivenDrawing from './GivenDrawing.svelte';

  let { who }: { who: string } = $props();
  const load = ask(
    ['people', 'accounts', 'dockets'],
    () => ['people/{who}/given', who],
    (signal) => got(api.GET('/api/v1/people/{who}/given', { params: { path: { who } }, signal }))
  );
  const rows = $derived(load.data?.rows ?? []);
  let drawing = $state<SVGSVGElement>();
  function table(): void {
    const cells = rows.map((r) => [
      r.application_name,
      r.thing,
      r.count,
      r.to_name,
      r.number,
      r.now_name
    ]);
    const head = ['application', 'thing', 'count', 'given to', 'docket', 'now with'];
    saveTable(head, cells, `${load.data?.user_name} given.csv`);
  }
</script>

<ProblemNote problem={load.problem} />
{#if rows.length}
  <GivenDrawing drawn={draw(rows)} name={load.data?.name ?? ''} bind:drawing />
  <div class="scroll">
    <table class="list">
      <thead
        ><tr
          ><th scope="col">What they had</th><th scope="col">Given to</th><th scope="col">By</th><th
            scope="col">On</th
          ><th scope="col">Now with</th></tr
        ></thead
      >
      <tbody>
        {#each rows as row, n (n)}
          <tr>
            <th scope="row" class="name"
              >{plural(row.count, row.thing)} in {row.application_name}</th
            >
            <td>{row.to_name}</td>
            <td><a href="/dockets/{row.number}">{row.number}</a></td>
            <td class="soft"><Moment at={row.at} zone={session.zone} /></td>
            <td>{holderOf(row)}</td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
  <p>
    {#if load.data?.over}There is more: <code>yugum handovers --who</code> has every thing.{/if}
    <button
      class="button plain"
      onclick={() => drawing && savePicture(drawing, `${load.data?.user_name} given.png`)}
      >As PNG</button
    >
    <button class="button plain" onclick={table}>As CSV</button>
  </p>
{:else if load.data}
  <p class="soft">Nothing of theirs went to others.</p>
{/if}

<script lang="ts">
  import Moment from '../../lib/components/Moment.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { dateOf } from '../../lib/format';
  import { because, kindOf, newHome, things } from '../../lib/handover';
  import { session } from '../../lib/session.svelte';
  import { Handing, type Row } from './handing.svelte';
  import OwnsAccount from './OwnsAccount.svelte';
  import OwnsChoice from './OwnsChoice.svelte';

  let { who, login }: { who: string; login: string } = $props();
  const handing = new Handing(() => who);
  const view = $derived(handing.load.data);
  const why = (row: Row): string => row.reason || because(row);
</script>

<ProblemNote problem={handing.load.problem} />
{#if view?.rows.length}
  <p class={{ soft: !view.open }}>
    {view.open ? `${view.open} of ${view.rows.length} are open.` : 'All of it is settled.'}
    {#if view.silent.length}{view.silent.join(', ')} did not answer: what was told last is shown.{/if}
  </p>
  <div class="scroll">
    <table class="list">
      <thead
        ><tr
          ><th scope="col">Application</th><th scope="col">What</th><th scope="col">Names</th><th
            scope="col">On leaving</th
          ><th scope="col"><span class="visually-hidden">Settle</span></th></tr
        ></thead
      >
      <tbody>
        {#each view.rows as row (`${row.account_id} ${row.thing} ${row.decision_id}`)}
          <tr>
            <th scope="row" class="name">{row.application_name}</th>
            <td>{things(row)}</td>
            <td class="soft">{row.names.join(', ')}{row.count > row.names.length ? ', …' : ''}</td>
            <td class={{ short: row.settled === 'open' }}
              >{newHome(row)}{#if row.until}&nbsp;until <Moment
                  at={row.until}
                  zone={session.zone}
                  said={dateOf(row.until, session.zone)}
                />{/if}
              {#if why(row)}<span class="soft">({why(row)})</span>{/if}</td
            >
            <td>
              {#if session.mayAct}
                <button
                  class="button slim"
                  aria-label="Settle {kindOf(row)} in {row.application_name}"
                  onclick={() => handing.begin(row)}>Settle …</button
                >
                {#if row.decision_id}<button
                    class="button slim plain"
                    aria-label="As for the rest: {kindOf(row)} in {row.application_name}"
                    onclick={() => void handing.end(row.decision_id!)}>As for the rest</button
                  >{/if}
              {/if}
            </td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
  {#if session.mayAct}
    {#each handing.lacking as row (`${row.application_id} ${row.to_id}`)}
      <OwnsAccount {handing} {row} />
    {/each}
  {/if}
  {#if handing.open}<OwnsChoice {handing} {login} />{/if}
{:else if view}<p>They own nothing in any application.</p>
{:else if !handing.load.problem}<p class="soft">The applications are asked …</p>{/if}

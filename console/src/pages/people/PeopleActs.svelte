<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import Later from '../../lib/components/Later.svelte';
  import PickBar from '../../lib/components/PickBar.svelte';
  import type { Listing } from '../../lib/listing.svelte';
  import { MOST_ISSUED } from './issue.svelte';
  import { people, type PeoplePlans } from './plans.svelte';

  interface Props {
    list: Listing<Schemas['PersonRow']>;
    plans: PeoplePlans;
  }
  /** What can be done with whoever is picked, and the dialogs of the page. */
  let { list, plans }: Props = $props();
  let issuing = $state.raw<string[] | null>(null);

  /** Whoever fits by now is meant; who fits later is not among them. */
  async function issue(): Promise<void> {
    if (!list.everything) {
      issuing = [...list.picked];
      return;
    }
    const rows = await list.all(MOST_ISSUED);
    if (rows) issuing = rows.map((r) => r.id); // else the list says what is wrong
  }
</script>

<PickBar {list} words={people}>
  <button class="button cut" onclick={() => plans.plan('leaver')}>Leaver …</button>
  <button class="button" onclick={() => plans.plan('absence')}>Absence …</button>
  <button class="button" onclick={issue}>New credentials …</button>
</PickBar>
{#if issuing}
  <Later
    load={() => import('./IssueDialog.svelte')}
    who={issuing}
    onclose={() => (issuing = null)}
  />
{/if}
{#if plans.filing}
  <Later load={() => import('./PeopleFile.svelte')} onclose={() => (plans.filing = false)} />
{/if}
{#if plans.making}
  <Later
    load={() => import('./NewJoiner.svelte')}
    onclose={() => (plans.making = false)}
    onmade={(login, name) => plans.made(login, name)}
  />
{/if}
{#if plans.wish}
  <Later
    load={() => import('../../lib/components/PlanPanel.svelte')}
    wish={plans.wish.wish}
    who={plans.wish.who}
    onclose={(confirmed) => plans.closed(confirmed)}
  />
{/if}

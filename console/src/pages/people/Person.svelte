<script lang="ts">
  import { api, got } from '../../lib/api';
  import Later from '../../lib/components/Later.svelte';
  import LifelineChart from '../../lib/components/LifelineChart.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { ask } from '../../lib/query.svelte';
  import type { Wish } from '../../lib/plan.svelte';
  import AccountTable from './AccountTable.svelte';
  import PersonDoubles from './PersonDoubles.svelte';
  import PersonEquipment from './PersonEquipment.svelte';
  import PersonFacts from './PersonFacts.svelte';
  import PersonHead from './PersonHead.svelte';
  import PersonNamed from './PersonNamed.svelte';
  import PersonOwns from './PersonOwns.svelte';
  import PersonNext from './PersonNext.svelte';
  import PersonPrecautions from './PersonPrecautions.svelte';
  import PersonStanding from './PersonStanding.svelte';

  let { who }: { who: string } = $props();
  const load = ask(
    ['people', 'accounts', 'dockets', 'decisions', 'findings', 'seats', 'rules'],
    () => ['people/{who}', who],
    (signal) => got(api.GET('/api/v1/people/{who}', { params: { path: { who } }, signal }))
  );
  let wish = $state.raw<Wish | null>(null);
  const view = $derived(load.data);
</script>

<svelte:head><title>{view?.display_name ?? 'Person'} · Yugum</title></svelte:head>
<ProblemNote problem={load.problem} />
{#if view}
  <PersonHead {view} onwish={(w) => (wish = w)} />
  <PersonFacts {view} />
  <PersonDoubles {view} onwish={(w) => (wish = w)} />
  <PersonPrecautions {view} onwish={(w) => (wish = w)} onended={() => void load.run()} />
  {#if view.accounts.length || view.coming.length}
    <LifelineChart {view} />
  {:else}
    <p class="sheet">No account anywhere, and no role gives one.</p>
  {/if}
  <PersonStanding {view} onwish={(w) => (wish = w)} />
  <PersonNext {view} />
  {#if view.accounts.length}<PersonOwns who={view.id} login={view.user_name} />{/if}
  <PersonNamed who={view.id} left={view.state === 'left'} />
  <PersonEquipment who={view.id} leaving={view.access_ends !== null} />
  <AccountTable {view} onwish={(w) => (wish = w)} />
  {#if wish}
    <Later
      load={() => import('../../lib/components/PlanPanel.svelte')}
      {wish}
      who={view.display_name}
      onclose={() => (wish = null)}
    />
  {/if}
{/if}

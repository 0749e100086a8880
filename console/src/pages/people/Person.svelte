<script lang="ts">
  import { api, got } from '../../lib/api';
  import Later from '../../lib/components/Later.svelte';
  import LifelineChart from '../../lib/components/LifelineChart.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import type { Query, View } from '../../lib/router.svelte';
  import Parts from '../../lib/components/Parts.svelte';
  import { ask } from '../../lib/query.svelte';
  import type { Wish } from '../../lib/plan.svelte';
  import AccountTable from './AccountTable.svelte';
  import PersonDoubles from './PersonDoubles.svelte';
  import PersonEquipment from './PersonEquipment.svelte';
  import PersonFacts from './PersonFacts.svelte';
  import PersonForms from './PersonForms.svelte';
  import PersonHead from './PersonHead.svelte';
  import PersonNamed from './PersonNamed.svelte';
  import PersonOwns from './PersonOwns.svelte';
  import PersonNext from './PersonNext.svelte';
  import PersonPrecautions from './PersonPrecautions.svelte';
  import PersonStanding from './PersonStanding.svelte';

  let { who, query = {} }: { who: string; query?: Query } = $props();
  const PARTS = [
    { name: 'access', label: 'Access' },
    { name: 'owns', label: 'What they own' },
    { name: 'history', label: 'History' }
  ];
  const load = ask(
    ['people', 'accounts', 'dockets', 'decisions', 'findings', 'seats', 'rules'],
    () => ['people/{who}', who],
    (signal) => got(api.GET('/api/v1/people/{who}', { params: { path: { who } }, signal }))
  );
  let wish = $state.raw<Wish | null>(null);
  let open = $state<'' | 'correct' | 'decide'>('');
  const view = $derived(load.data);
  const to = (query: Query): View => ({ page: 'person', who, query });
</script>

<svelte:head><title>{view?.display_name ?? 'Person'} · Yugum</title></svelte:head>
<ProblemNote problem={load.problem} />
{#if view}
  <PersonHead {view} onwish={(w) => (wish = w)} onopen={(what) => (open = what)} />
  <PersonFacts {view} />
  <PersonDoubles {view} onwish={(w) => (wish = w)} />
  <PersonPrecautions {view} onwish={(w) => (wish = w)} onended={() => void load.run()} />
  {#if view.accounts.length || view.coming.length}
    <LifelineChart {view} />
  {:else}
    <p class="sheet">No account anywhere, and no role gives one.</p>
  {/if}
  <Parts label="Of {view.display_name}" parts={PARTS} {query} {to}>
    {#snippet children(part)}
      {#if part === 'owns'}
        {#if view.accounts.length}<PersonOwns who={view.id} login={view.user_name} />{/if}
        <PersonNamed who={view.id} left={view.state === 'left'} />
      {:else if part === 'history'}
        <Later load={() => import('./PersonHistory.svelte')} {view} />
      {:else}
        <PersonStanding {view} onwish={(w) => (wish = w)} />
        <PersonNext {view} />
        <PersonEquipment who={view.id} leaving={view.access_ends !== null} />
        <AccountTable {view} onwish={(w) => (wish = w)} />
      {/if}
    {/snippet}
  </Parts>
  <PersonForms {view} bind:open bind:wish />
{/if}

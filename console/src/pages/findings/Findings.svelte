<script lang="ts">
  import { api, got } from '../../lib/api';
  import { ACCEPTED_COLUMNS, FINDING_COLUMNS, type Found } from '../../lib/columns';
  import Filters from '../../lib/components/Filters.svelte';
  import ListPart from '../../lib/components/ListPart.svelte';
  import { FINDINGS } from '../../lib/filters';
  import { Listing } from '../../lib/listing.svelte';
  import { whose, type Query } from '../../lib/router.svelte';
  import { ask } from '../../lib/query.svelte';
  import Kinds from './Kinds.svelte';
  import { session } from '../../lib/session.svelte';
  import Deviations from './Deviations.svelte';
  import { Acts } from './acts.svelte';
  import FindingActs from './FindingActs.svelte';
  import FindingsHead from './FindingsHead.svelte';
  import Review from './Review.svelte';

  let { query = {} }: { query?: Query } = $props();
  const kind = $derived(query.kind ?? '');
  const list = new Listing<Found>(
    ['findings', 'accounts', 'people', 'seats'],
    () => ({ page: 'findings', query }),
    async (query, signal) => {
      const page = await got(api.GET('/api/v1/findings', { params: { query }, signal }));
      return { ...page, items: page.items.map((f) => ({ ...f, id: `${f.kind} ${f.key}` })) };
    }
  );
  const counts = ask(
    ['findings', 'accounts', 'people', 'seats'],
    () => ['findings/counts'],
    (signal) => got(api.GET('/api/v1/findings/counts', { signal }))
  );
  const found = $derived(counts.data ?? []);
  const over = $derived(found.some((c) => c.over) ? 'over ' : '');
  const all = $derived(over + found.reduce((sum, c) => sum + c.count, 0).toLocaleString('en-GB'));
  const acts = new Acts(list);
  const accepted = $derived(query.accepted === 'true');
</script>

<svelte:head><title>Findings · Yugum</title></svelte:head>
<FindingsHead found={counts.data} {all} {kind} />
<ListPart
  {list}
  page="findings"
  columns={accepted ? [...FINDING_COLUMNS, ...ACCEPTED_COLUMNS] : FINDING_COLUMNS}
  label="Findings"
  picks={session.mayAct}
  to={(row) => whose(row.person_id, row.login)}
  none={accepted ? 'Nothing is accepted.' : 'Nothing that fits was found.'}
>
  {#snippet above()}
    <Kinds {found} {all} {kind} onask={(wanted) => list.ask({ kind: wanted })} />
    <Filters fields={FINDINGS} {query} onask={(change) => list.ask(change)} />
    <label class="check"
      ><input
        type="checkbox"
        checked={accepted}
        onchange={() => list.ask({ accepted: accepted ? '' : 'true' })}
      /> Those that are accepted</label
    >
  {/snippet}
  <p>Nothing was found. Read an application, and what should not be stands here.</p>
</ListPart>
{#if session.mayAct}<FindingActs {acts} {accepted} />{/if}
<Deviations />
<Review />

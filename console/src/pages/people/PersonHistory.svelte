<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import Moment from '../../lib/components/Moment.svelte';
  import { capital } from '../../lib/format';
  import { href } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import EarlierPart from './EarlierPart.svelte';
  import FactsTable from './FactsTable.svelte';
  import PersonDecisions from './PersonDecisions.svelte';
  import PersonMails from './PersonMails.svelte';

  /** What was decided about somebody, what changed about them, what was done and told. */
  let { view }: { view: Schemas['PersonView'] } = $props();
  const zone = $derived(session.zone);
</script>

<PersonDecisions {view} />
<FactsTable facts={view.facts} />
<EarlierPart {view} />
<h2>Dockets</h2>
{#if view.dockets.length}
  <ul class="lines">
    {#each view.dockets as docket (docket.id)}
      <li>
        <Moment at={docket.due_at} {zone} />
        <a class="within" href={href({ page: 'docket', name: docket.number })}>{docket.number}</a>
        {capital(docket.title)}, {docket.outcome}
      </li>
    {/each}
  </ul>
{:else}<p class="soft">No docket yet.</p>{/if}
<p>
  <a href={href({ page: 'dockets', query: { who: view.user_name } })}>All of their dockets</a>
</p>
<PersonMails {view} />

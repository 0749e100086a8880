<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import Later from '../../lib/components/Later.svelte';
  import { AUDIT } from '../../lib/filters';
  import { Listing } from '../../lib/listing.svelte';
  import type { Query } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import AccessList from './AccessList.svelte';
  import { about } from './audit';
  import { AUDIT_COLUMNS } from './columns';

  /** Who did what and when, the latest first; what is sealed can be checked outside of here. */
  let { query }: { query: Query } = $props();
  const list = new Listing<Schemas['AuditEvent']>(
    ['dockets', 'decisions', 'people', 'access'],
    () => ({ page: 'access', query }),
    (query, signal) => got(api.GET('/api/v1/audit', { params: { query }, signal }))
  );
</script>

<AccessList page="audit" title="Who did what" {list} columns={AUDIT_COLUMNS} fields={AUDIT}>
  {#snippet acts()}
    {#if session.mayAdminister}
      <a class="button slim" href="/api/v1/audit/export" download="audit.jsonl">Export, sealed</a>
    {/if}
  {/snippet}
  {#snippet cell(row, column)}
    {@const of = column.name === 'subject_name' ? about(row) : null}
    {#if of}<a href={of.at}>{of.word}</a>{:else}{column.text(row)}{/if}
  {/snippet}
  {#snippet opened(row, onclose)}
    <Later load={() => import('./EventPanel.svelte')} {row} {onclose} />
  {/snippet}
  <p class="soft">Nothing was done yet.</p>
</AccessList>

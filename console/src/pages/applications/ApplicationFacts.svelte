<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import { dateOf, plural } from '../../lib/format';
  import { href } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';

  /** What an application can do, whom to call, and how it is reached. */
  let { row }: { row: Schemas['ApplicationRow'] } = $props();
  const can = $derived(row.capabilities.map((c) => c.replaceAll('_', ' ')).join(', '));
</script>

<dl>
  <dt>Can do</dt>
  <dd>{can || 'nothing but be looked at'}</dd>
  <dt>Whom to call</dt>
  <dd>{row.contact || 'nobody is named'}{row.owner ? `; it belongs to ${row.owner}` : ''}</dd>
  {#if row.address}
    <dt>Reached at</dt>
    <dd class="mono">{row.address}</dd>
  {/if}
  <dt>Credential</dt>
  <dd>
    {row.credential_ends
      ? `until ${dateOf(row.credential_ends, session.zone)}`
      : 'nobody has said how long it is good'}
  </dd>
  <dt>Calls</dt>
  <dd>
    {row.profile.calls_per_second
      ? `${plural(row.profile.calls_per_second, 'call')} a second at most`
      : 'as fast as it answers'}
  </dd>
  {#if row.group_fields.length}
    <dt>Groups</dt>
    <dd><a href={href({ page: 'groups', query: { application: row.id } })}>those of it</a></dd>
  {/if}
</dl>

<style>
  dl {
    display: grid;
    grid-template-columns: max-content minmax(0, 1fr);
    gap: 3px 16px;
    margin: 0;
  }
  dt {
    color: var(--color-surface-600-400);
  }
  dd {
    margin: 0;
    overflow-wrap: anywhere;
  }
</style>

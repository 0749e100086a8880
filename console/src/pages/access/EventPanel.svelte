<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import Panel from '../../lib/components/Panel.svelte';
  import { exactly } from '../../lib/format';
  import { session } from '../../lib/session.svelte';
  import { about, told } from './audit';

  /** All of what the audit log keeps of one event. */
  let { row, onclose }: { row: Schemas['AuditEvent']; onclose: () => void } = $props();
  const of = $derived(about(row));
</script>

<Panel open title={row.action} {onclose}>
  <dl>
    <dt>When</dt>
    <dd>{exactly(row.at, session.zone)}</dd>
    <dt>By the machine’s clock</dt>
    <dd>{exactly(row.machine_at, session.zone)}</dd>
    <dt>Who</dt>
    <dd class="mono">{row.actor}</dd>
    <dt>About</dt>
    <dd>
      {#if of}<a href={of.at}>{of.word}</a>{:else}<span class="mono">{row.subject}</span>{/if}
    </dd>
    <dt>What of it</dt>
    <dd>{told(row.payload) || 'nothing further'}</dd>
    <dt>Sealed as</dt>
    <dd>{row.leaf_index === null ? 'not yet' : `leaf ${row.leaf_index} of the log`}</dd>
  </dl>
  <div class="buttons"><button class="button plain" onclick={onclose}>Close</button></div>
</Panel>

<style>
  dl {
    display: grid;
    grid-template-columns: max-content minmax(0, 1fr);
    gap: 3px 16px;
    margin: 0 0 14px;
  }
  dt {
    color: var(--color-surface-600-400);
  }
  dd {
    overflow-wrap: anywhere;
  }
</style>

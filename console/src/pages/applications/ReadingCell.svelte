<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import Moment from '../../lib/components/Moment.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { session } from '../../lib/session.svelte';
  import type { Acting } from './acting.svelte';

  /** When an application was read last, and reading it now. */
  let { row, acting }: { row: Schemas['ApplicationRow']; acting: Acting } = $props();
</script>

{#if row.kind === 'sign-on'}
  <span class="soft">has no accounts of its own</span>
{:else if row.reading_at}
  <Moment at={row.reading_at} zone={session.zone} />
{:else}
  <span class="soft">not read yet</span>
{/if}
{#if row.kind !== 'sign-on'}
  <button class="bare link" disabled={acting.busy !== ''} onclick={() => acting.read()}
    >{acting.busy || 'Read now'}</button
  >
{/if}
<ProblemNote problem={acting.problem} />

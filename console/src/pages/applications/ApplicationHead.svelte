<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import Moment from '../../lib/components/Moment.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { plural } from '../../lib/format';
  import { router } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import { KINDS } from '../../lib/words';
  import { Acting } from './acting.svelte';
  import ApplicationActs, { type Opens } from './ApplicationActs.svelte';
  import ApplicationDialogs from './ApplicationDialogs.svelte';
  import ApplicationState from './ApplicationState.svelte';

  interface Props {
    row: Schemas['ApplicationRow'];
    changed: () => void;
  }
  /** What an application is, what Yugum may do there, and what can be done with it. */
  let { row, changed }: Props = $props();
  let open = $state<Opens>('');
  const acting = new Acting(
    () => row,
    () => changed()
  );
  const own = $derived(row.kind !== 'sign-on');
</script>

<h1>{row.name}</h1>
<div class="facts">
  <span>{KINDS[row.kind] ?? row.kind}, <span class="mono">{row.id}</span></span>
  {#if own}
    <span><b>{plural(row.accounts, 'account')}</b></span>
    <span><b>{row.active}</b> open</span>
    <span
      >{#if row.reading_at}read <Moment at={row.reading_at} zone={session.zone} />{:else}not read
        yet{/if}</span
    >
  {/if}
  <ApplicationState {row} />
</div>
<ApplicationActs {row} {acting} onopen={(what) => (open = what)} />
<ProblemNote problem={acting.problem} />
<ApplicationDialogs
  {row}
  {open}
  close={() => (open = '')}
  done={() => {
    if (open === 'leaving') router.go({ page: 'applications' });
    open = '';
    changed();
  }}
/>

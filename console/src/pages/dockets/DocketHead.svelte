<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import type { DocketState } from '../../lib/docket.svelte';
  import { capital } from '../../lib/format';
  import { href } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import Moment from '../../lib/components/Moment.svelte';
  import DocketActs from './DocketActs.svelte';

  interface Props {
    docket: DocketState;
    view: Schemas['DocketView'];
    onundo: () => void;
  }
  let { docket, view, onundo }: Props = $props();
</script>

<div class="head">
  <div>
    <h1>
      {capital(view.title)}:
      <a href={href({ page: 'person', who: view.subject_id })}>{view.subject_name}</a>
      <span class="mono soft number">{view.number}</span>
    </h1>
    <div class="facts">
      <span>{view.outcome}</span>
      <span>due <b><Moment at={view.due_at} zone={session.zone} /></b></span>
      <span>by <b>{view.author}</b></span>
      {#if view.reference}<span>reference <b class="mono">{view.reference}</b></span>{/if}
      {#if view.reason}<span>{view.reason}</span>{/if}
      {#if view.withheld}<span>in confidence: <b>notices are withheld</b></span>{/if}
    </div>
  </div>
  {#if session.mayAct}<DocketActs {docket} {view} {onundo} />{/if}
</div>

<style>
  .head {
    display: flex;
    justify-content: space-between;
    gap: 18px;
  }
  h1 a {
    color: inherit;
  }
  .number {
    font-size: 17px;
    font-weight: 500;
    letter-spacing: 0;
  }
</style>

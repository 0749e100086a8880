<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import Panel from '../../lib/components/Panel.svelte';
  import PickMoment from '../../lib/components/pick/PickMoment.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import ReasonField from '../../lib/components/ReasonField.svelte';
  import { Load } from '../../lib/load.svelte';
  import { changed } from '../../lib/query.svelte';

  interface Props {
    row: Schemas['ApplicationRow'];
    onclose: () => void;
  }
  /** Nothing of an application is deleted or purged while it is on hold. */
  let { row, onclose }: Props = $props();
  let reason = $state('');
  let ends = $state('');
  const holding = new Load(async () => {
    const params = { path: { application_id: row.id } };
    const body = { reason, ends };
    await got(api.POST('/api/v1/applications/{application_id}/hold', { params, body }));
    changed(['decisions']);
    onclose();
    return true;
  });
</script>

<Panel open title="Hold {row.name}" {onclose}>
  <form
    onsubmit={(event) => {
      event.preventDefault();
      void holding.run();
    }}
  >
    <p class="soft">
      Nothing of it is deleted or purged while the hold lasts; cut-offs go on. It is ended under
      Last call.
    </p>
    <ReasonField bind:value={reason} required />
    <PickMoment label="Until (until it is ended, if left out)" bind:value={ends} />
    <ProblemNote problem={holding.problem} />
    <div class="buttons">
      <button class="button plain" type="button" onclick={onclose}>Close</button>
      <button class="button do" disabled={holding.busy}>Hold it</button>
    </div>
  </form>
</Panel>

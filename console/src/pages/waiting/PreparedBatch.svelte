<script lang="ts">
  import { api, got, type Problem, type Schemas } from '../../lib/api';
  import Panel from '../../lib/components/Panel.svelte';
  import PlanView from '../../lib/components/PlanView.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import Safeguards from '../../lib/components/Safeguards.svelte';
  import { asProblem } from '../../lib/load.svelte';
  import { router } from '../../lib/router.svelte';

  let { batch, onclose }: { batch: Schemas['BatchView']; onclose: () => void } = $props();
  let reference = $state('');
  let reason = $state('');
  let typed = $state('');
  let override = $state('');
  let problem = $state.raw<Problem | null>(null);
  let busy = $state(false);

  async function fire(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    busy = true;
    try {
      const path = { batch_id: batch.id };
      const body = { reference, reason, typed, override };
      const done = await got(api.POST('/api/v1/plans/{batch_id}/fire', { params: { path }, body }));
      const docket = done.dockets[0];
      if (docket) router.go({ page: 'docket', name: docket.number });
    } catch (error) {
      problem = asProblem(error);
    } finally {
      busy = false;
    }
  }
</script>

<Panel open title="Prepared in confidence" wide {onclose}>
  <form onsubmit={fire}>
    <PlanView {batch} />
    <p class="soft">
      It is planned again from what is now, overtakes everything, and nobody is told until you say
      so.
    </p>
    <div class="two">
      <label class="field"><span>Reference</span><input bind:value={reference} /></label>
      <label class="field"><span>Reason</span><input bind:value={reason} /></label>
    </div>
    <Safeguards {batch} bind:typed bind:override kept asked={problem?.place === 'override'} />
    <ProblemNote {problem} />
    <div class="buttons">
      <button class="button plain" type="button" onclick={onclose}>Close</button>
      <button class="button cut" disabled={busy}>Cut off now</button>
    </div>
  </form>
</Panel>

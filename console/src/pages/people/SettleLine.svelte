<script lang="ts">
  import Panel from '../../lib/components/Panel.svelte';
  import PickMoment from '../../lib/components/pick/PickMoment.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import ReasonField from '../../lib/components/ReasonField.svelte';
  import type { Settling } from './settling.svelte';

  /** That one thing may stay as it is, though it is not as it should be. */
  let { settling }: { settling: Settling } = $props();
  const row = $derived(settling.open!);
  const close = () => (settling.open = null);
</script>

<Panel open title="It may stay as it is" onclose={close}>
  <form
    onsubmit={(event) => {
      event.preventDefault();
      void settling.accept();
    }}
  >
    <p>
      {[row.kind, row.item].filter(Boolean).join(' ')} in {row.application_name}:
      {row.held} instead of {row.want}. It is no finding any more while that is accepted.
    </p>
    <ReasonField bind:value={settling.reason} required />
    <PickMoment
      label="Until (for good, if left out)"
      who={row.subject_id}
      bind:value={settling.ends}
    />
    <ProblemNote problem={settling.problem} />
    <div class="buttons">
      <button class="button plain" type="button" onclick={close}>Close</button>
      <button class="button do" disabled={settling.busy}>Accept it</button>
    </div>
  </form>
</Panel>

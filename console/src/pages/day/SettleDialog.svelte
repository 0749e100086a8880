<script lang="ts">
  import { api, got, type Problem, type Schemas } from '../../lib/api';
  import Panel from '../../lib/components/Panel.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import SettleStep from '../../lib/components/SettleStep.svelte';
  import { asProblem } from '../../lib/load.svelte';
  import { changed } from '../../lib/query.svelte';
  import { href } from '../../lib/router.svelte';
  import { PLANNED } from '../../lib/words';

  let { row, onclose }: { row: Schemas['Stuck']; onclose: () => void } = $props();
  let problem = $state.raw<Problem | null>(null);

  async function settle(how: 'retry' | 'left_out' | 'by_hand', note: string): Promise<void> {
    const params = { path: { step_id: row.step_id } };
    try {
      await got(api.POST('/api/v1/dockets/steps/{step_id}', { params, body: { how, note } }));
      changed(['dockets']);
      onclose();
    } catch (error) {
      problem = asProblem(error);
    }
  }
</script>

<Panel open title="{row.display_name}, {row.application_name}" {onclose}>
  <p>
    <b>{`${PLANNED[row.action] ?? row.action} ${row.item}`.trim()}</b>: {row.problem}
    {#if row.contact}On call: {row.contact}.{/if}
  </p>
  <ProblemNote {problem} />
  <SettleStep first onsettle={(how, note) => void settle(how, note)} />
  <p>
    <a href={href({ page: 'docket', name: row.number })}>The whole docket {row.number}</a>
  </p>
</Panel>

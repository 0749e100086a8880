<script lang="ts">
  import { exactly } from '../format';
  import type { Lane } from '../lifeline.svelte';
  import { session } from '../session.svelte';
  import StateMark from './StateMark.svelte';

  let { lanes }: { lanes: Lane[] } = $props();
</script>

<div class="scroll">
  <table class="list">
    <thead
      ><tr><th>Application</th><th>From</th><th>Until</th><th>Planned</th><th>State</th></tr></thead
    >
    <tbody>
      {#each lanes as lane, place (place)}
        {#each lane.bars as bar, index (index)}
          <tr>
            <td class="name">{lane.name}</td>
            <td>{exactly(bar.start, session.zone)}</td>
            <td>{bar.until ? exactly(bar.until, session.zone) : ''}</td>
            <td>{bar.planned ? 'planned' : ''}</td>
            <td><StateMark state={bar.state} /></td>
          </tr>
        {/each}
      {/each}
    </tbody>
  </table>
</div>

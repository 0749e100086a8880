<script lang="ts">
  import type { Planning } from '../plan.svelte';
  import PickMoment from './pick/PickMoment.svelte';
  import PickPerson from './pick/PickPerson.svelte';

  /** What can be said of a leaving beside its moment; dates are in the zone of `who`, where it is one person. */
  let { plan, who }: { plan: Planning; who: string | undefined } = $props();
</script>

<PickMoment label="Access should have ended (if that is past)" bind:value={plan.since} {who} />
<details>
  <summary>Last working day, end of the contract</summary>
  <div class="two">
    <PickMoment label="Last working day" bind:value={plan.lastDay} {who} />
    <PickMoment label="The contract ends" bind:value={plan.contractEnds} {who} />
  </div>
</details>
<PickPerson label="Successor (the manager if left out)" bind:value={plan.successor} />
<label class="check"
  ><input type="checkbox" bind:checked={plan.confidential} /> Prepare in confidence: only you see it,
  under Waiting, until you carry it out</label
>

<script lang="ts">
  import PickMoment from '../../lib/components/pick/PickMoment.svelte';
  import type { Acts } from './acts.svelte';

  /** Until when what was found may be so, and why. */
  let { acts }: { acts: Acts } = $props();
</script>

<form
  class="form-row"
  aria-label="Accept findings"
  onsubmit={(event) => {
    event.preventDefault();
    void acts.accept();
  }}
>
  <PickMoment label="Until (at most 90 days)" required bind:value={acts.said.until} />
  <label class="field"
    ><span>Why they may be so</span><input
      required
      maxlength="300"
      bind:value={acts.said.reason}
    /></label
  >
  <button class="button do" disabled={acts.busy}>Accept them</button>
  <button class="button plain" type="button" onclick={() => (acts.saying = false)}>Leave it</button>
</form>

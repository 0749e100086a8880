<script lang="ts">
  import PickPerson from '../../lib/components/pick/PickPerson.svelte';
  import { plural } from '../../lib/format';
  import type { Acts } from './acts.svelte';

  /** Whose accounts that are picked are, or who answers for them. */
  let { acts }: { acts: Acts } = $props();
</script>

<form
  class="form-row"
  aria-label="Whose it is"
  onsubmit={(event) => {
    event.preventDefault();
    void acts.link();
  }}
>
  <PickPerson label="Whose" bind:value={acts.whose.who} />
  <label class="field"
    ><span>As</span><select bind:value={acts.whose.kind}>
      <option value="">it is already kept</option>
      <option value="person">their own account</option>
      <option value="service">a service account they answer for</option>
      <option value="shared">a shared account they answer for</option>
    </select></label
  >
  <button class="button do" disabled={acts.busy || !acts.whose.who}
    >Link {plural(acts.linked.length, 'account')}</button
  >
  <button class="button plain" type="button" onclick={() => (acts.linking = false)}>Leave it</button
  >
</form>

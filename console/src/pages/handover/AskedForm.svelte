<script lang="ts">
  import PickPerson from '../../lib/components/pick/PickPerson.svelte';
  import type { Questions } from './asked.svelte';

  let { asked }: { asked: Questions } = $props();
  const row = $derived(asked.rows.find((one) => one.id === asked.about));
</script>

{#if row}
  <form
    class="form-row stays"
    aria-label="Note an answer"
    onsubmit={(event) => {
      event.preventDefault();
      void asked.note();
    }}
  >
    <b>{row.heir_name}, the {row.thing} of {row.name}</b>
    <label class="field"
      ><span>What they say</span><select bind:value={asked.said.answer}>
        <option value="accepted">They take it over</option>
        <option value="passed-on">Somebody else does</option>
        <option value="declined">They do not</option>
      </select></label
    >
    {#if asked.said.answer === 'passed-on'}
      <PickPerson label="Who does" bind:value={asked.said.to} />
    {/if}
    <label class="field"
      ><span>How you know</span><input
        required
        maxlength="300"
        bind:value={asked.said.note}
      /></label
    >
    <button class="button do" disabled={asked.load.acting}>Note it</button>
    <button type="button" class="button" onclick={() => (asked.about = '')}>Cancel</button>
  </form>
{/if}

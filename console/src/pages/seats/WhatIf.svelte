<script lang="ts">
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import TextFile from '../../lib/components/TextFile.svelte';
  import type { Asking } from './whatIf.svelte';

  let { asking }: { asking: Asking } = $props();
  const said = $derived(asking.said);
</script>

<details>
  <summary>What if …</summary>
  <ProblemNote problem={asking.problem} />
  <form
    class="form-row"
    onsubmit={(event) => {
      event.preventDefault();
      void asking.ask();
    }}
  >
    <label class="field"
      ><span>So many more were bought</span><input
        type="number"
        min="1"
        bind:value={said.bought}
      /></label
    >
    <label class="field"
      ><span>From</span><input type="date" required={!!said.bought} bind:value={said.from} /></label
    >
    <label class="field"
      ><span>So many began</span><input type="number" min="1" bind:value={said.joining} /></label
    >
    <label class="field"
      ><span>On</span><input type="date" required={!!said.joining} bind:value={said.begin} /></label
    >
    <TextFile
      label="A file of joiners …"
      name={said.file}
      onread={(text, name) => Object.assign(said, { joiners: text, file: name })}
    />
    <TextFile
      label="Other rules …"
      name={said.text}
      onread={(text, name) => Object.assign(said, { rules: text, text: name })}
    />
    <button class="button" disabled={asking.busy}>Show what would come</button>
  </form>
</details>

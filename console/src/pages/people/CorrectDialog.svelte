<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import Panel from '../../lib/components/Panel.svelte';
  import PickValue from '../../lib/components/pick/PickValue.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import ReasonField from '../../lib/components/ReasonField.svelte';
  import { plural } from '../../lib/format';
  import { fieldName } from '../../lib/words';
  import { Correcting, PARTS } from './correcting.svelte';

  /** Fields of somebody that were wrong; what follows from it is shown as a plan. */
  interface Props {
    view: Schemas['PersonView'];
    onclose: () => void;
    ondone: () => void;
    /** They are here twice. */
    ontwice: () => void;
  }
  let { view, onclose, ondone, ontwice }: Props = $props();
  // svelte-ignore state_referenced_locally
  const form = new Correcting(view);
  const parts = $derived([
    ...Object.entries<readonly string[]>(PARTS),
    ...(form.own.length ? [['Of the organisation’s own', form.own] as const] : [])
  ]);
  const count = $derived(Object.keys(form.changes).length);
  const KNOWN = ['department', 'site', 'user_type'] as const;
  const known = (name: string) => KNOWN.find((one) => one === name);
  const save = () => void form.save(ondone);
</script>

<Panel open title="Correct {view.display_name}" wide {onclose}>
  <form
    onsubmit={(event) => {
      event.preventDefault();
      save();
    }}
  >
    <p class="soft">
      What was wrong is put right at once. Somebody who changes from a day on is moved, renamed or
      extended instead. <button class="bare link" type="button" onclick={ontwice}
        >Here twice …</button
      >
    </p>
    {#each parts as [title, names] (title)}
      <fieldset class="three">
        <legend>{title}</legend>
        {#each names as name (name)}
          {@const field = known(name)}
          {#if field}
            <PickValue label={fieldName(name)} {field} bind:value={form.fields[name]!} />
          {:else}
            <label class="field"
              ><span>{fieldName(name)}</span><input
                maxlength="300"
                bind:value={form.fields[name]}
              /></label
            >
          {/if}
        {/each}
      </fieldset>
    {/each}
    <ReasonField bind:value={form.reason} />
    <ProblemNote
      problem={form.problem}
      onright={(place) => {
        form.isRight(place);
        save();
      }}
    />
    <div class="buttons">
      <button class="button plain" type="button" onclick={onclose}>Close</button>
      <button class="button do" disabled={form.busy || !count}
        >{count ? `Correct ${plural(count, 'field')}` : 'Nothing is changed'}</button
      >
    </div>
  </form>
</Panel>

<style>
  fieldset {
    border: 0;
    padding: 0;
    margin: 0 0 12px;
  }
  legend {
    font-weight: 600;
    padding: 0;
  }
</style>

<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import Panel from '../../lib/components/Panel.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import ReasonField from '../../lib/components/ReasonField.svelte';
  import { plural } from '../../lib/format';
  import CorrectFields from './CorrectFields.svelte';
  import { Correcting } from './correcting.svelte';

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
  const count = $derived(form.count);
  const save = () => (form.stored ? ondone() : void form.save(ondone));
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
    <CorrectFields {form} />
    <div class="two">
      <ReasonField bind:value={form.reason} />
      <label class="field"
        ><span>Birthday, kept as a digest</span><input
          type="date"
          bind:value={form.birthday}
        /></label
      >
    </div>
    {#if form.same.length}
      <p role="status">
        The birthday is kept. Born on the same day, and of a like name: {form.same
          .map((one) => `${one.name} (${one.user_name}${one.has_left ? ', has left' : ''})`)
          .join(', ')}. If that is the same person: <i>Here twice …</i>
      </p>
    {/if}
    <ProblemNote
      problem={form.problem}
      onright={(place) => {
        form.isRight(place);
        save();
      }}
    />
    <div class="buttons">
      <button class="button plain" type="button" onclick={onclose}>Close</button>
      {#if form.stored}
        <button class="button do">Go on</button>
      {:else}
        <button class="button do" disabled={form.busy || !count}
          >{count ? `Correct ${plural(count, 'field')}` : 'Nothing is changed'}</button
        >
      {/if}
    </div>
  </form>
</Panel>

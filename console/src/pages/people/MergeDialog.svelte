<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import Panel from '../../lib/components/Panel.svelte';
  import PickPerson from '../../lib/components/pick/PickPerson.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import ReasonField from '../../lib/components/ReasonField.svelte';
  import { Merging } from './merging.svelte';

  /** Somebody who is here twice: one record goes, with everything of it this one's. */
  interface Props {
    view: Schemas['PersonView'];
    onclose: () => void;
    /** With the accounts that are one too many now. */
    ondone: (twice: string[]) => void;
  }
  let { view, onclose, ondone }: Props = $props();
  const it = new Merging(() => view);
  const named = (person: Schemas['PersonView']): string =>
    `no. ${person.employee_number || '–'}, ${person.user_name}, ${person.department || 'no department'}`;
  const accounts = (person: Schemas['PersonView']): string =>
    person.accounts.map((a) => `${a.application_name} ${a.login}`).join(', ') || 'no account';
</script>

<Panel open title="{view.display_name} is here twice" wide {onclose}>
  <form
    onsubmit={(event) => {
      event.preventDefault();
      void it.merge(ondone);
    }}
  >
    <PickPerson label="The other record of them, which goes" bind:value={it.other} />
    <dl>
      <dt>Stays</dt>
      <dd>{named(view)}<br /><span class="soft">{accounts(view)}</span></dd>
      {#if it.gone}
        <dt>Goes</dt>
        <dd>{named(it.gone)}<br /><span class="soft">{accounts(it.gone)}</span></dd>
        {#if it.twice.length}
          <dt>Twice</dt>
          <dd>
            {it.twice.map((a) => `${a.application_name} ${a.login}`).join(', ')}<br /><span
              class="soft">what they own and hold goes over and they end, as a plan says next</span
            >
          </dd>
        {/if}
      {/if}
    </dl>
    <ReasonField bind:value={it.reason} required />
    <ProblemNote problem={it.problem ?? it.asked.problem} />
    <div class="buttons">
      <button class="button plain" type="button" onclick={onclose}>Close</button>
      <button class="button do" disabled={it.busy || !it.gone}>Make one of them</button>
    </div>
  </form>
</Panel>

<style>
  dl {
    display: grid;
    grid-template-columns: auto 1fr;
    gap: 6px 16px;
    margin: 10px 0;
  }
  dt {
    font-weight: 600;
  }
  dd {
    margin: 0;
  }
</style>

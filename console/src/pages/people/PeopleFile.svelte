<script lang="ts">
  import Panel from '../../lib/components/Panel.svelte';
  import PlanPanel from '../../lib/components/PlanPanel.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { plural } from '../../lib/format';
  import { PeopleFile } from './file.svelte';
  import FileColumns from './FileColumns.svelte';
  import FileFaults from './FileFaults.svelte';
  import FilePick from './FilePick.svelte';
  import FileTaking from './FileTaking.svelte';

  let { onclose }: { onclose: () => void } = $props();
  const file = new PeopleFile();
  const view = $derived(file.view);
  const leaving = $derived(view?.kind === 'leavers');
  let planning = $state(false);
  const people = (count: number) => plural(count, 'person', 'people');

  function planned(confirmed: boolean): void {
    planning = false;
    if (confirmed) onclose();
    else void file.look();
  }
  const fresh = $derived(
    Object.entries(view?.fresh ?? {}).map(([field, values]) => ({
      field,
      text: values.slice(0, 12).join(', ') + (values.length > 12 ? ' …' : '')
    }))
  );
</script>

{#if view && planning}
  <PlanPanel
    wish={{ verb: 'leaver', file: view.id }}
    who="{people(file.good)} from {view.name}"
    onclose={planned}
  />
{/if}
<Panel open={!planning} title="From a file" wide {onclose}>
  <FilePick
    bind:kind={file.kind}
    onpick={(picked) => void file.pick(picked)}
    another={view !== null}
  />
  <ProblemNote problem={file.problem} />
  {#if view}
    <div class="facts read" role="status">
      <span class="mono">{view.name}</span>
      <span><b>{view.new}</b> {leaving ? 'to leave' : 'new'}</span>
      <span><b>{view.changed}</b> {leaving ? 'to leave otherwise' : 'changed'}</span>
      <span><b>{view.same}</b> {leaving ? 'as planned' : 'as they are'}</span>
      <span class:bad={view.faulty > 0}><b>{view.faulty}</b> faulty</span>
      {#if view.taken}<span><b>{view.taken}</b> taken</span>{/if}
      {#if file.good && leaving}
        <button class="button do" disabled={file.busy} onclick={() => (planning = true)}
          >Plan for {people(file.good)} …</button
        >
      {:else if file.good && !file.taking}
        <button class="button do" disabled={file.busy} onclick={() => void file.take()}
          >Take {people(file.good)}</button
        >
      {/if}
    </div>
    {#if file.taking}
      <FileTaking done={view.taken} all={file.all} onstop={() => file.stop()} />
    {:else if view.taken && !file.good && !leaving}
      <p>
        {people(view.taken)} taken. What they are to have is worked out now.
      </p>
    {:else if !file.good && !view.faulty}
      <p>{leaving ? 'All of it is planned' : 'Everybody in the file is known'} as it says.</p>
    {/if}
    {#each fresh as one (one.field)}
      <p class="small">New in {one.field.replace('_', ' ')}: {one.text}</p>
    {/each}
    {#if !view.taken}<FileColumns {file} {view} />{/if}
    {#if file.faulty.length}<FileFaults {file} {view} />{/if}
  {/if}
</Panel>

<style>
  .bad {
    color: var(--color-error-600-400);
  }
  .read {
    margin-top: 14px;
  }
  .do {
    margin-left: auto;
  }
</style>

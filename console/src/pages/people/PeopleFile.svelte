<script lang="ts">
  import Panel from '../../lib/components/Panel.svelte';
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
  const fresh = $derived(
    Object.entries(view?.fresh ?? {}).map(([field, values]) => ({
      field,
      text: values.slice(0, 12).join(', ') + (values.length > 12 ? ' …' : '')
    }))
  );
</script>

<Panel open title="People from a file" wide {onclose}>
  <FilePick onpick={(picked) => void file.pick(picked)} another={view !== null} />
  <ProblemNote problem={file.problem} />
  {#if view}
    <div class="facts read" role="status">
      <span class="mono">{view.name}</span>
      <span><b>{view.new}</b> new</span>
      <span><b>{view.changed}</b> changed</span>
      <span><b>{view.same}</b> as they are</span>
      <span class:bad={view.faulty > 0}><b>{view.faulty}</b> faulty</span>
      {#if view.taken}<span><b>{view.taken}</b> taken</span>{/if}
      {#if file.good && !file.taking}
        <button class="button do" disabled={file.busy} onclick={() => void file.take()}
          >Take {plural(file.good, 'person', 'people')}</button
        >
      {/if}
    </div>
    {#if file.taking}
      <FileTaking done={view.taken} all={file.all} onstop={() => file.stop()} />
    {:else if view.taken && !file.good}
      <p>
        {plural(view.taken, 'person', 'people')} taken. What they are to have is worked out now.
      </p>
    {:else if !file.good && !view.faulty}
      <p>Everybody in the file is known as it says.</p>
    {/if}
    {#each fresh as one (one.field)}
      <p class="small">New in {one.field.replace('_', ' ')}: {one.text}</p>
    {/each}
    {#if !view.taken}<FileColumns {file} columns={view.columns} />{/if}
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

<script lang="ts">
  import type { PeopleFile } from './file.svelte';
  import { people } from './plans.svelte';
  import FileTaking from './FileTaking.svelte';

  interface Props {
    file: PeopleFile;
    view: NonNullable<PeopleFile['view']>;
    onplan: () => void;
  }
  /** What a file says, and taking it, or planning from it. */
  let { file, view, onplan }: Props = $props();
  const leaving = $derived(view.kind === 'leavers');
</script>

<div class="facts read" role="status">
  <span class="mono">{view.name}</span>
  <span><b>{view.new}</b> {leaving ? 'to leave' : 'new'}</span>
  <span><b>{view.changed}</b> {leaving ? 'to leave otherwise' : 'changed'}</span>
  <span><b>{view.same}</b> {leaving ? 'as planned' : 'as they are'}</span>
  <span class:short={view.faulty > 0}><b>{view.faulty}</b> faulty</span>
  {#if view.taken}<span><b>{view.taken}</b> taken</span>{/if}
  {#if file.good && leaving}
    <button class="button do" disabled={file.busy} onclick={onplan}
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

<style>
  .read {
    margin-top: 14px;
  }
  .do {
    margin-left: auto;
  }
</style>

<script lang="ts">
  import { FileUpload, SegmentedControl } from '@skeletonlabs/skeleton-svelte';
  import type { Kind } from './file.svelte';

  interface Props {
    onpick: (file: File) => void;
    another: boolean;
    kind: Kind;
  }
  /** A file from this machine, chosen or dropped, and what it is of. */
  let { onpick, another, kind = $bindable() }: Props = $props();
  const KINDS: Record<Kind, string> = { people: 'People', leavers: 'Leavers' };
  const TOLD: Record<Kind, string> = {
    people: 'Nobody is made or changed before every row was checked.',
    leavers:
      'Login or number, when access ends, successor, reason. Nothing is planned before every row was checked.'
  };
</script>

<SegmentedControl value={kind} onValueChange={({ value }) => (kind = value as Kind)} class="kinds">
  <SegmentedControl.Label>A file of</SegmentedControl.Label>
  <SegmentedControl.Control>
    <SegmentedControl.Indicator />
    {#each Object.entries(KINDS) as [value, text] (value)}
      <SegmentedControl.Item {value}>
        <SegmentedControl.ItemText>{text}</SegmentedControl.ItemText>
        <SegmentedControl.ItemHiddenInput />
      </SegmentedControl.Item>
    {/each}
  </SegmentedControl.Control>
</SegmentedControl>

<FileUpload
  maxFiles={1}
  onFileAccept={({ files }) => {
    if (files[0]) onpick(files[0]);
  }}
>
  <FileUpload.Dropzone
    class="drop"
    role={undefined}
    tabindex={undefined}
    aria-label={undefined}
    disableClick
  >
    <FileUpload.Trigger class="button"
      >{another ? 'Another file …' : 'Choose a file …'}</FileUpload.Trigger
    >
    <span class="soft"
      >CSV in any common encoding; its first row names the columns. {TOLD[kind]}</span
    >
    <FileUpload.HiddenInput />
  </FileUpload.Dropzone>
</FileUpload>

<style>
  :global([data-scope='radio-group'].kinds) {
    display: flex;
    flex-direction: row;
    gap: 10px;
    align-items: center;
    justify-content: flex-start;
    margin-bottom: 10px;
  }
  :global(.kinds [data-part='control']) {
    padding: 2px;
    border: 1px solid var(--color-surface-400-600);
    border-radius: var(--radius-base);
  }
  :global(.kinds [data-part='item']) {
    padding: 2px 12px;
    font-size: inherit;
  }
  :global(.kinds [data-part='indicator']) {
    background: var(--color-surface-950-50);
    border-radius: var(--radius-base);
  }
  :global(.kinds [data-part='item-text']) {
    color: var(--color-surface-950-50);
    font-size: inherit;
  }
  :global(.kinds [data-part='item-text'][data-state='checked']) {
    color: var(--color-surface-50-950);
  }
  :global(.kinds [data-part='item'][data-focus-visible]) {
    outline: 2px solid currentcolor;
    outline-offset: 2px;
  }
  :global([data-part='dropzone'].drop) {
    display: flex;
    flex-wrap: wrap;
    gap: 10px;
    align-items: center;
    padding: 12px;
    border: 1px dashed var(--color-surface-400-600);
    border-radius: var(--radius-base);
  }
</style>

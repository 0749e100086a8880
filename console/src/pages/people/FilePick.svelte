<script lang="ts">
  import { FileUpload } from '@skeletonlabs/skeleton-svelte';
  import Segments from '../../lib/components/Segments.svelte';
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

<Segments label="A file of" options={KINDS} bind:value={kind} />

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

<script lang="ts">
  import { FileUpload } from '@skeletonlabs/skeleton-svelte';

  /** A file from this machine, chosen or dropped. */
  let { onpick, another }: { onpick: (file: File) => void; another: boolean } = $props();
</script>

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
      >CSV in any common encoding; its first row names the columns. Nobody is made or changed before
      every row was checked.</span
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

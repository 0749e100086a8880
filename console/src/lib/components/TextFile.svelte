<script lang="ts">
  import { FileUpload } from '@skeletonlabs/skeleton-svelte';

  interface Props {
    label: string;
    name: string;
    onread: (text: string, name: string) => void;
  }
  /** The text of a file from this machine; nothing is kept of it. */
  let { label, name, onread }: Props = $props();
  async function read(file: File | undefined): Promise<void> {
    if (file) onread(await file.text(), file.name);
  }
</script>

<FileUpload maxFiles={1} onFileAccept={({ files }) => void read(files[0])}>
  <FileUpload.Trigger class="button">{name || label}</FileUpload.Trigger>
  <FileUpload.HiddenInput />
</FileUpload>

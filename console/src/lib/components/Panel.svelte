<script lang="ts">
  import './panel.css';
  import { Dialog, Portal } from '@skeletonlabs/skeleton-svelte';
  import type { Snippet } from 'svelte';

  interface Props {
    open: boolean;
    title: string;
    onclose: () => void;
    children: Snippet;
    wide?: boolean;
  }
  let { open, title, onclose, children, wide = false }: Props = $props();
</script>

<Dialog {open} onOpenChange={(event) => !event.open && onclose()}>
  <Portal>
    <Dialog.Backdrop class="fixed inset-0 z-40 bg-black/45" />
    <Dialog.Positioner
      class="fixed inset-0 z-50 flex items-start justify-center overflow-y-auto p-6"
    >
      <Dialog.Content class={wide ? 'yg-panel wide' : 'yg-panel'}>
        <Dialog.Title class="yg-panel-title">{title}</Dialog.Title>
        {@render children()}
      </Dialog.Content>
    </Dialog.Positioner>
  </Portal>
</Dialog>

<script lang="ts">
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

<style>
  :global(.yg-panel) {
    background: var(--color-surface-50-950);
    color: var(--color-surface-contrast-50-950);
    border: 1px solid var(--color-surface-300-700);
    border-radius: 6px;
    padding: 20px 24px;
    width: min(560px, 100%);
    margin-top: 4vh;
    max-height: calc(96dvh - 40px);
    overflow-y: auto;
  }
  :global(.yg-panel.wide) {
    width: min(860px, 100%);
  }
  /* What can be done stays in sight, however long it is. */
  :global(.yg-panel :is(.buttons, .acts)) {
    position: sticky;
    bottom: -20px;
    margin-bottom: -8px;
    padding: 8px 0 14px;
    background: var(--color-surface-50-950);
  }
  :global(.yg-panel form) {
    display: grid;
    gap: 12px;
  }
  :global(.yg-panel form .buttons) {
    display: flex;
    flex-wrap: wrap;
    justify-content: flex-end;
    gap: 8px;
  }
  :global(.yg-panel form .two),
  :global(.yg-panel form .three) {
    display: grid;
    grid-template-columns: repeat(2, minmax(0, 1fr));
    align-items: start;
    gap: 12px;
  }
  :global(.yg-panel form .three) {
    grid-template-columns: repeat(3, minmax(0, 1fr));
  }
  @media (max-width: 640px) {
    :global(.yg-panel form .two),
    :global(.yg-panel form .three) {
      grid-template-columns: minmax(0, 1fr);
    }
  }
  :global(.yg-panel-title) {
    font-size: 17px;
    line-height: 24px;
    font-weight: 700;
    position: sticky;
    top: -20px;
    z-index: 1;
    padding: 8px 0;
    margin-top: -8px;
    background: var(--color-surface-50-950);
  }
</style>

<script lang="ts">
  import './toasts.css';
  import { tick } from 'svelte';
  import { createToaster, Toast } from '@skeletonlabs/skeleton-svelte';
  import type { News } from '../elsewhere.svelte';

  let { news }: { news: News[] } = $props();

  const toaster = createToaster({ placement: 'bottom-start', max: 3, duration: 12_000 });
  /** The first of them once the group listens. */
  $effect(() => {
    const found = news.splice(0);
    if (found.length) void tick().then(() => found.forEach(tell));
  });

  function tell({ title, text, to }: News): void {
    const type = text.endsWith('stuck') ? 'error' : 'info';
    toaster.create({ title, description: text, type, meta: { to } });
  }
</script>

<!-- What happened elsewhere, and nothing that this page shows itself. -->
<Toast.Group {toaster}>
  {#snippet children(toast)}
    <Toast {toast} class={toast.type === 'error' ? 'stuck' : ''}>
      <Toast.Message>
        <Toast.Title><a href={toast.meta?.to as string}>{toast.title}</a></Toast.Title>
        <Toast.Description>{toast.description}</Toast.Description>
      </Toast.Message>
      <Toast.CloseTrigger aria-label="Close: {toast.title}">×</Toast.CloseTrigger>
    </Toast>
  {/snippet}
</Toast.Group>

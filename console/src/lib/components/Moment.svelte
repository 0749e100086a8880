<script lang="ts">
  import { exactly, momentOf } from '../format';
  import { times } from '../times.svelte';

  interface Props {
    at: string;
    zone: string;
    /** Instead of the day and the time. */
    said?: string;
    /** Words that stay where times are said in full. */
    told?: string;
  }
  const { at, zone, said, told }: Props = $props();
  const exact = $derived(exactly(at, zone));
</script>

<!-- In full also for who has no pointer to rest on it: read out, and shown for all pages at once. -->
<time datetime={at} title={exact}
  >{#if !times.exact}{told ?? said ?? momentOf(at, zone)}<span class="visually-hidden"
      >: {exact}</span
    >{:else}{told ? `${told}, ` : ''}{exact}{/if}</time
>

<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import type { Wish } from '../../lib/plan.svelte';
  import CorrectDialog from './CorrectDialog.svelte';
  import DecideDialog from './DecideDialog.svelte';
  import MergeDialog from './MergeDialog.svelte';

  /** What is stored at once; what follows from it is a plan. */
  interface Props {
    view: Schemas['PersonView'];
    open: 'correct' | 'decide';
    close: () => void;
    onwish: (wish: Wish) => void;
  }
  let { view, open, close, onwish }: Props = $props();
  let twice = $state(false);
  function done(follows = true): void {
    close();
    if (follows) onwish({ verb: 'recheck', who: [view.id] });
  }
</script>

{#if twice}
  <MergeDialog
    {view}
    onclose={close}
    ondone={(accounts) => {
      close();
      if (accounts.length) onwish({ verb: 'recheck', who: [view.id], accounts });
    }}
  />
{:else if open === 'correct'}
  <CorrectDialog {view} onclose={close} ondone={done} ontwice={() => (twice = true)} />
{:else}
  <DecideDialog {view} onclose={close} ondone={done} />
{/if}

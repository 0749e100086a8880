<script lang="ts">
  import Panel from '../../lib/components/Panel.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import ConnectFields from './ConnectFields.svelte';
  import { Connecting } from './connecting.svelte';

  interface Props {
    onclose: () => void;
    onmade: () => void;
  }
  let { onclose, onmade }: Props = $props();

  const it = new Connecting();
</script>

<Panel open title="Connect an application" {onclose}>
  <form
    onsubmit={(event) => {
      event.preventDefault();
      void it.save(onmade);
    }}
  >
    <p class="soft small">
      It is asked what it can do, read once, and from then on only watched: nothing is changed there
      until you trust Yugum with more.
    </p>
    <ConnectFields {it} />
    <ProblemNote problem={it.problem} />
    <div class="buttons">
      <button class="button plain" type="button" onclick={onclose}>Leave it</button>
      <button class="button do" disabled={it.busy}
        >{it.busy ? 'Reading…' : 'Connect and read'}</button
      >
    </div>
  </form>
</Panel>

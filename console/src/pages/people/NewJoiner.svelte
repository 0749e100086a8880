<script lang="ts">
  import Panel from '../../lib/components/Panel.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import JoinerFields from './JoinerFields.svelte';
  import { NewJoiner } from './joiner.svelte';
  import WouldGet from './WouldGet.svelte';

  interface Props {
    onclose: () => void;
    onmade: (login: string, name: string) => void;
  }
  let { onclose, onmade }: Props = $props();
  const joiner = new NewJoiner();

  async function save(event?: SubmitEvent): Promise<void> {
    event?.preventDefault();
    const made = await joiner.save();
    if (made) onmade(made.login, made.name);
  }
</script>

<Panel open title="New joiner" wide {onclose}>
  <form onsubmit={save}>
    <JoinerFields {joiner} />
    {#if joiner.gets}<WouldGet lines={joiner.gets} />{/if}
    <ProblemNote
      problem={joiner.problem}
      onright={(place) => {
        joiner.isRight(place);
        void save();
      }}
    />
    {#if joiner.problem?.code === 'conflict'}
      <label class="check"
        ><input type="checkbox" bind:checked={joiner.another} /> It is another person than who has the
        number, address, name or birthday</label
      >
      <label class="check"
        ><input type="checkbox" bind:checked={joiner.again} /> Take them in though they were declined</label
      >
    {/if}
    <div class="buttons">
      <button class="button plain" type="button" onclick={onclose}>Close</button>
      <button class="button do" disabled={joiner.busy}>Save and show the plan</button>
    </div>
  </form>
</Panel>

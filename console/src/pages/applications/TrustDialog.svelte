<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import Panel from '../../lib/components/Panel.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { plural } from '../../lib/format';
  import { ask } from '../../lib/query.svelte';

  interface Props {
    row: Schemas['ApplicationRow'];
    wanted: Schemas['Trust'];
    onclose: () => void;
    onmeant: () => void;
  }
  let { row, wanted, onclose, onmeant }: Props = $props();
  const MOST = 200;
  const waiting = ask(
    ['findings', 'people', 'accounts'],
    () => ['standing', row.id, 'waiting'],
    (signal) => {
      const query = { application: row.id, status: 'waiting' as const, limit: MOST };
      return got(api.GET('/api/v1/standing', { params: { query }, signal }));
    }
  );
  const held = $derived((waiting.data?.items ?? []).filter((r) => r.code === 'not-trusted').length);
  const some = $derived(
    `${waiting.data?.next ? 'at least ' : ''}${plural(held, 'difference')} ${held === 1 ? 'waits' : 'wait'}`
  );
  const WORDS: Record<Schemas['Trust'], { title: string; do: string; follows: string[] }> =
    $derived({
      watch: {
        title: `Only watch ${row.name}`,
        do: 'Only watch it',
        follows: [
          'Yugum changes nothing there any more: what plans would do is left to its administrators.',
          `That is so of a leaver’s access as well: ${plural(row.active, 'account')} there ${row.active === 1 ? 'is' : 'are'} open, and none is cut off by Yugum.`
        ]
      },
      add: {
        title: `Let Yugum add in ${row.name}`,
        do: 'Let it add',
        follows: [
          'Yugum makes accounts there, gives and changes, from the next plan on.',
          'What takes something away is left to its administrators, also the cut-off of a leaver.'
        ]
      },
      full: {
        title: `Trust ${row.name} to Yugum`,
        do: 'Let it do everything',
        follows: [
          'Yugum gives, changes and takes away there, suspends, closes and deletes accounts, from the next plan on.',
          'What falls due of leavers and of accounts nobody should have is done by itself.'
        ]
      }
    });
  const words = $derived(WORDS[wanted]);
</script>

<Panel open title={words.title} {onclose}>
  <h3>What follows</h3>
  <ul>
    {#each words.follows as line (line)}<li>{line}</li>{/each}
    {#if wanted !== 'watch' && held}<li>{some} there for more trust.</li>{/if}
  </ul>
  <ProblemNote problem={waiting.problem} />
  <!-- What changes nothing comes first: the dialog begins there. -->
  <p class="acts">
    <button class="button" onclick={onclose}>Leave it as it is</button>
    <button class={['button', wanted === 'full' ? 'cut' : 'do']} onclick={onmeant}
      >{words.do}</button
    >
  </p>
</Panel>

<style>
  h3 {
    font-weight: 600;
    font-size: inherit;
    margin: 0 0 4px;
  }
  ul {
    margin: 0 0 1rem;
    padding: 0 0 0 1.1rem;
    display: grid;
    gap: 4px;
  }
  .acts {
    display: flex;
    gap: 10px;
    margin: 0;
  }
</style>

<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import Panel from '../../lib/components/Panel.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { plural } from '../../lib/format';
  import { ask } from '../../lib/query.svelte';
  import { trustWords } from './trust';

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
  const words = $derived(trustWords(row)[wanted]);
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
</style>

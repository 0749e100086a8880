<script lang="ts">
  import { api, got } from '../../lib/api';
  import { ask } from '../../lib/query.svelte';
  import FirstDialogs from './FirstDialogs.svelte';
  import FirstStep from './FirstStep.svelte';
  import { stepsOf, type Opens } from './steps';

  /** What is to be done once before there is a day to look at; gone when it is. */
  let { login, password }: { login: string; password: boolean } = $props();
  let set = $state(false);
  const load = ask(
    ['people', 'applications', 'rules'],
    () => ['first-steps'],
    async (signal) => {
      const query = { limit: 1 };
      const [status, versions] = await Promise.all([
        got(api.GET('/api/v1/status', { signal })),
        got(api.GET('/api/v1/rules/versions', { params: { query }, signal }))
      ]);
      const people = Object.values(status.counts.people).reduce((sum, n) => sum + (n ?? 0), 0);
      return {
        people,
        applications: status.applications,
        version: versions.items[0]?.version ?? 0
      };
    }
  );
  let opened = $state<Opens>('');

  const steps = $derived(load.data ? stepsOf(load.data, login, password || set) : []);
  const next = $derived(steps.findIndex((s) => !s.done));
</script>

{#if steps.length && next >= 0}
  <section aria-labelledby="first">
    <h2 id="first">First steps</h2>
    <ol>
      {#each steps as step, at (step.name)}
        <FirstStep {step} {at} next={at === next} onopen={() => (opened = step.opens)} />
      {/each}
    </ol>
  </section>
{/if}
<FirstDialogs {opened} close={() => (opened = '')} onset={() => (set = true)} />

<style>
  ol {
    display: grid;
    gap: 2px;
    margin: 0 0 24px;
    padding: 0;
    list-style: none;
  }
</style>

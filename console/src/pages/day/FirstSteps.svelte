<script lang="ts">
  import { api, got } from '../../lib/api';
  import Later from '../../lib/components/Later.svelte';
  import { ask } from '../../lib/query.svelte';
  import { session } from '../../lib/session.svelte';
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
  const close = () => (opened = '');

  const steps = $derived(load.data ? stepsOf(load.data, login, password || set) : []);
  const next = $derived(steps.findIndex((s) => !s.done));
</script>

{#if steps.length && next >= 0}
  <section aria-labelledby="first">
    <h2 id="first">First steps</h2>
    <ol>
      {#each steps as step, at (step.name)}
        <li aria-current={at === next ? 'step' : undefined} class:done={step.done}>
          <span class="at" aria-hidden="true">{step.done ? '✓' : at + 1}</span>
          <b>{step.name}</b>
          <span class:soft={step.done}>{step.done ? step.is : step.todo}</span>
          {#if step.done}{:else if step.goes}
            <a class="button" class:do={at === next} href={step.goes}>{step.act}</a>
          {:else}
            <button
              class="button"
              class:do={at === next}
              disabled={step.opens === 'application' && !session.mayAdminister}
              onclick={() => (opened = step.opens)}>{step.act}</button
            >
          {/if}
        </li>
      {/each}
    </ol>
  </section>
{/if}
{#if opened === 'password'}
  <Later
    load={() => import('../access/OwnDialog.svelte')}
    what="password"
    onclose={close}
    ondone={() => {
      set = true;
      close();
    }}
  />
{:else if opened === 'people'}
  <Later load={() => import('../people/PeopleFile.svelte')} onclose={close} />
{:else if opened === 'application'}
  <Later load={() => import('../applications/Connect.svelte')} onclose={close} onmade={close} />
{/if}

<style>
  ol {
    display: grid;
    gap: 2px;
    margin: 0 0 24px;
    padding: 0;
    list-style: none;
  }
  li {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 12px;
    align-items: center;
    padding: 8px 0;
    border-bottom: 1px solid var(--color-surface-200-800);
  }
  li > b {
    min-width: 9em;
  }
  li > .button {
    margin-left: auto;
  }
  .at {
    display: grid;
    place-items: center;
    width: 26px;
    height: 26px;
    border: 1.5px solid currentcolor;
    border-radius: 50%;
  }
  .done .at {
    color: var(--color-success-700-300);
  }
</style>

<script lang="ts">
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { plural } from '../../lib/format';
  import { Candidate } from '../../lib/rules.svelte';
  import { session } from '../../lib/session.svelte';
  import RulesActs from './RulesActs.svelte';
  import RulesEditor from './RulesEditor.svelte';
  import Trial from './Trial.svelte';
  import Versions from './Versions.svelte';

  const candidate = new Candidate();
  void candidate.load();
  let goTo = $state.raw<(line: number) => void>(() => undefined);
</script>

<svelte:head><title>Rules · Yugum</title></svelte:head>
<h1>Rules</h1>
<ProblemNote problem={candidate.problem} />
{#if candidate.view}
  <div class="facts">
    <span>version <b>{candidate.view.version}</b> is in force</span>
    <span><b>{plural(Object.keys(candidate.view.document.roles ?? {}).length, 'role')}</b></span>
    <span class:short={candidate.problems.length > 0}
      ><b>{plural(candidate.problems.length, 'mistake')}</b></span
    >
    {#if candidate.changed}<span>changed here, not adopted</span>{/if}
  </div>
  <RulesEditor {candidate} onfocusline={(go) => (goTo = go)} />
  {#if candidate.problems.length}
    <ol class="mistakes">
      {#each candidate.problems as p (p.line + p.message + p.column)}
        <li>
          <button class="bare link" onclick={() => goTo(p.line)}
            >line {p.line}, column {p.column}</button
          >
          {p.message} <span class="soft">{p.remedy}</span>
        </li>
      {/each}
    </ol>
  {/if}
  {#if session.mayAct}<RulesActs {candidate} />{/if}
  {#if candidate.trial}<Trial trial={candidate.trial} />{/if}
  {#if candidate.adopted}
    <p role="status">
      Version {candidate.adopted.version} is in force{candidate.adopted.rechecked
        ? `; ${plural(candidate.adopted.rechecked, 'person', 'people')} looked at again`
        : ''}.
    </p>
  {/if}
  <Versions current={candidate.view.version} />
{/if}

<style>
  .mistakes {
    margin: 8px 0;
    display: grid;
    gap: 4px;
  }
</style>

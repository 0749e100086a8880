<script lang="ts">
  import Panel from '../../lib/components/Panel.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { plural } from '../../lib/format';
  import { Issue } from './issue.svelte';

  interface Props {
    who: string[];
    onclose: () => void;
  }
  let { who, onclose }: Props = $props();
  // svelte-ignore state_referenced_locally
  const issue = new Issue(who);
  const failed = $derived(issue.made.filter((r) => r.problem));
  const people = $derived(new Set(issue.meant.map((r) => r.person_id)).size);
</script>

<Panel open title="New credentials" wide {onclose}>
  <ProblemNote problem={issue.problem} />
  {#if issue.looked}
    <fieldset class="where" disabled={issue.busy || issue.done}>
      <legend>In which applications</legend>
      {#each issue.names as name (name)}
        <label class="check"
          ><input
            type="checkbox"
            checked={!issue.without.has(name)}
            onchange={() => issue.toggle(name)}
          />
          {name}</label
        >
      {:else}
        <p>None of them has an open account that takes a credential.</p>
      {/each}
    </fieldset>
    <p role="status">
      {#if issue.done}
        New credentials for {plural(issue.made.length - failed.length, 'account')}, told of as the
        first ones were. For who has no mail: print them, which opens them.
      {:else if issue.made.length}
        {issue.made.length} of {issue.meant.length} …
      {:else}
        {plural(issue.meant.length, 'account')} of {plural(people, 'person', 'people')}. Each is
        generated; the one there is stops working.
      {/if}
    </p>
    {#each failed as row (row.account_id)}
      <p class="short">{row.login} in {row.application_name}: {row.problem}</p>
    {/each}
  {:else if !issue.problem}
    <p>Looking …</p>
  {/if}
  <div class="buttons">
    <button class="button plain" onclick={onclose}>Close</button>
    {#if issue.done}
      <button class="button do" disabled={issue.busy} onclick={issue.print}>Print slips …</button>
    {:else}
      <button class="button do" disabled={issue.busy || !issue.meant.length} onclick={issue.issue}
        >Give new ones</button
      >
    {/if}
  </div>
</Panel>

<style>
  .where {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 18px;
    margin: 0 0 12px;
  }
</style>

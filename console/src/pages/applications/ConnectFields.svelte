<script lang="ts">
  import { api, got } from '../../lib/api';
  import { ask } from '../../lib/query.svelte';
  import type { Connecting } from './connecting.svelte';

  /** What a new application is, and where it is reached. */
  let { it }: { it: Connecting } = $props();
  const { fields } = $derived(it);
  const kinds = ask(
    [],
    () => ['applications/kinds'],
    (signal) => got(api.GET('/api/v1/applications/kinds', { signal }))
  );
</script>

<div class="two">
  <label class="field"
    ><span>Name</span><input
      value={fields.name}
      oninput={(e) => it.name(e.currentTarget.value)}
      required
    /></label
  >
  <label class="field"
    ><span>Short name in rules and commands</span><input
      class="mono"
      bind:value={fields.id}
      required
    /></label
  >
  <label class="field"
    ><span>Kind</span><select bind:value={fields.kind}>
      {#each kinds.data ?? [fields.kind] as kind (kind)}<option>{kind}</option>{/each}
    </select></label
  >
  <label class="field"
    ><span>Address (where it has one)</span><input class="mono" bind:value={fields.url} /></label
  >
  <label class="field"
    ><span>Token, password or connection URL</span><input
      type="password"
      autocomplete="off"
      bind:value={fields.secret}
    /></label
  >
  <label class="field"
    ><span>Whom to call when it does not answer</span><input bind:value={fields.contact} /></label
  >
</div>
<label class="field"
  ><span>Options of this kind, one name=value a line</span><textarea
    class="mono"
    rows="3"
    bind:value={it.options}></textarea></label
>

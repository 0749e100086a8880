<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import { plural } from '../../lib/format';

  /** What ends with the access, and which applications were not heard. */
  let { view }: { view: Schemas['ReferencesView'] } = $props();
</script>

{#each view.keys as key (`${key.application_id} ${key.login}`)}
  <p>
    {plural(key.count, 'key')} of {key.login} in {key.application_name}
    {key.count === 1 ? 'ends' : 'end'} at the latest with the access.
  </p>
{/each}
{#if view.silent.length}<p>
    {view.silent.join(', ')} did not answer: what was told last is shown.
  </p>{/if}
{#if view.unsearched.length}<p class="soft">
    Not searched, for they show no such places: {view.unsearched.join(', ')}.
  </p>{/if}

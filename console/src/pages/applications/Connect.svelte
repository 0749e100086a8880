<script lang="ts">
  import { api, got, type Problem } from '../../lib/api';
  import Panel from '../../lib/components/Panel.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { asProblem } from '../../lib/load.svelte';
  import { ask } from '../../lib/query.svelte';
  import { pairs, slug } from './said';

  interface Props {
    onclose: () => void;
    onmade: () => void;
  }
  let { onclose, onmade }: Props = $props();

  const kinds = ask(
    [],
    () => ['applications/kinds'],
    (signal) => got(api.GET('/api/v1/applications/kinds', { signal }))
  );
  const fields = $state({ id: '', name: '', kind: 'scim', url: '', secret: '', contact: '' });
  let options = $state('');
  let problem = $state.raw<Problem | null>(null);
  let busy = $state(false);

  function name(value: string): void {
    if (fields.id === slug(fields.name)) fields.id = slug(value);
    fields.name = value;
  }

  async function save(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    busy = true;
    try {
      const body = { ...fields, secret: fields.secret || null, options: pairs(options) };
      await got(api.POST('/api/v1/applications', { body }));
      await got(
        api.POST('/api/v1/applications/{application_id}/read', {
          params: { path: { application_id: fields.id } }
        })
      );
      onmade();
    } catch (error) {
      problem = asProblem(error);
    } finally {
      busy = false;
    }
  }
</script>

<Panel open title="Connect an application" {onclose}>
  <form onsubmit={save}>
    <p class="soft small">
      It is asked what it can do, read once, and from then on only watched: nothing is changed there
      until you trust Yugum with more.
    </p>
    <div class="two">
      <label class="field"
        ><span>Name</span><input
          value={fields.name}
          oninput={(e) => name(e.currentTarget.value)}
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
        ><span>Address (where it has one)</span><input
          class="mono"
          bind:value={fields.url}
        /></label
      >
      <label class="field"
        ><span>Token, password or connection URL</span><input
          type="password"
          autocomplete="off"
          bind:value={fields.secret}
        /></label
      >
      <label class="field"
        ><span>Whom to call when it does not answer</span><input
          bind:value={fields.contact}
        /></label
      >
    </div>
    <label class="field"
      ><span>Options of this kind, one name=value a line</span><textarea
        class="mono"
        rows="3"
        bind:value={options}></textarea></label
    >
    <ProblemNote {problem} />
    <div class="buttons">
      <button class="button plain" type="button" onclick={onclose}>Leave it</button>
      <button class="button do" disabled={busy}>{busy ? 'Reading…' : 'Connect and read'}</button>
    </div>
  </form>
</Panel>

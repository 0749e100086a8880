<script lang="ts">
  import { api, got, type Problem, type Schemas } from '../../lib/api';
  import Panel from '../../lib/components/Panel.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { asProblem } from '../../lib/load.svelte';
  import ProfileFields from './ProfileFields.svelte';
  import { changes, shown } from './profile';

  interface Props {
    row: Schemas['ApplicationRow'];
    onclose: () => void;
    onsaved: () => void;
  }
  let { row, onclose, onsaved }: Props = $props();

  // What stood there when the panel was opened; a later reading must not overwrite typing.
  // svelte-ignore state_referenced_locally
  const before = shown(row.profile);
  const fields = $state({ ...before });
  let problem = $state.raw<Problem | null>(null);
  let busy = $state(false);

  async function save(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    busy = true;
    try {
      const path = { application_id: row.id };
      const body = changes(before, fields);
      await got(
        api.PATCH('/api/v1/applications/{application_id}/profile', { params: { path }, body })
      );
      onsaved();
    } catch (error) {
      problem = asProblem(error);
    } finally {
      busy = false;
    }
  }
</script>

<Panel open title="{row.name}: windows, seats and limits" wide {onclose}>
  <form onsubmit={save}>
    <p class="soft small">
      Goes for everything planned from now on. A window that is running already ends when it was
      said to.
    </p>
    <ProfileFields {row} {fields} />
    <ProblemNote {problem} />
    <div class="buttons">
      <button class="button plain" type="button" onclick={onclose}>Leave it</button>
      <button class="button do" disabled={busy}>Save</button>
    </div>
  </form>
</Panel>

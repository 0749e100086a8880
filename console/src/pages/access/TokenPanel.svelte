<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import Confirm from '../../lib/components/Confirm.svelte';
  import Panel from '../../lib/components/Panel.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { momentOf } from '../../lib/format';
  import { Load } from '../../lib/load.svelte';
  import { changed } from '../../lib/query.svelte';
  import { session } from '../../lib/session.svelte';

  /** One token, which can only end. */
  let { row, onclose }: { row: Schemas['TokenRow']; onclose: () => void } = $props();
  const revoking = new Load(async () => {
    const params = { path: { token_id: row.id } };
    await got(api.DELETE('/api/v1/tokens/{token_id}', { params }));
    changed(['access']);
    onclose();
    return true;
  });
</script>

<Panel open title="The token {row.name}" {onclose}>
  <p>
    Whoever has it works as <b class="mono">{row.of}</b>, with the rights of {row.scopes.join(
      ', '
    )}, {row.expires ? `until ${momentOf(row.expires, session.zone)}` : 'until it is revoked'}. What
    it is, was shown once and is kept nowhere.
  </p>
  <ProblemNote problem={revoking.problem} />
  <div class="buttons">
    <Confirm
      text="Revoke …"
      label="Revoke the token {row.name} …"
      sure="Revoke it now"
      busy={revoking.busy}
      cut
      ondo={() => void revoking.run()}
    />
    <button class="button plain" onclick={onclose}>Close</button>
  </div>
</Panel>

<script lang="ts">
  import type { Schemas } from '../api';

  interface Props {
    batch: Schemas['BatchView'];
    typed: string;
    override: string;
    /** Why guards are overridden may have been said when the plan was prepared. */
    kept?: boolean;
    /** A guard that the plan as it was shown did not have stands in the way. */
    asked?: boolean;
  }
  let {
    batch,
    typed = $bindable(),
    override = $bindable(),
    kept = false,
    asked = false
  }: Props = $props();
  const final = $derived(batch.plans.some((p) => p.steps.some((s) => s.irreversible)));
  const guarded = $derived(
    asked || batch.plans.some((p) => p.cautions.some((c) => c.blocks === 'override'))
  );
</script>

{#if guarded}
  <label class="field"
    ><span>Why it is right all the same</span><input
      bind:value={override}
      required={asked || !kept}
    /></label
  >
{/if}
{#if final}
  <label class="field"
    ><span
      >It cannot be put back, and a second operator has to agree. Type the login, or “purge” and the
      number of accounts</span
    ><input bind:value={typed} required /></label
  >
{/if}

<script lang="ts">
  import { api, got } from '../../lib/api';
  import Panel from '../../lib/components/Panel.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { Load } from '../../lib/load.svelte';
  import PasswordField from './PasswordField.svelte';

  interface Props {
    what: 'password' | 'others';
    onclose: () => void;
    ondone: (told: string) => void;
  }
  let { what, onclose, ondone }: Props = $props();
  let current = $state('');
  let fresh = $state('');

  const act = new Load(async () => {
    if (what === 'password') {
      await got(api.PUT('/api/v1/session/password', { body: { password: fresh, current } }));
      ondone('Your password is set; your other sessions have ended.');
    } else {
      await got(api.POST('/api/v1/session/others/end', { body: { password: current } }));
      ondone('Your other sessions have ended.');
    }
    return true;
  });

  function submit(event: SubmitEvent): void {
    event.preventDefault();
    void act.run();
  }
</script>

<Panel open title={what === 'others' ? 'End other sessions' : 'Set your password'} {onclose}>
  <form class="form" onsubmit={submit}>
    {#if what === 'password'}
      <p class="soft">
        After a one-time link, or where there is none yet, the present one is not needed.
      </p>
    {:else}
      <p class="soft">
        Every session of yours but this one ends, on whatever machine; tokens stay.
      </p>
    {/if}
    <PasswordField bind:value={current} required={what === 'others'} />
    {#if what === 'password'}
      <label class="field"
        ><span>New password, 12 characters or more</span><input
          type="password"
          autocomplete="new-password"
          minlength="12"
          required
          bind:value={fresh}
        /></label
      >
    {/if}
    <ProblemNote problem={act.problem} />
    <p>
      <button class="button do" disabled={act.busy}
        >{what === 'others' ? 'End them' : 'Set it'}</button
      >
      <button type="button" class="button plain" onclick={onclose}>Leave it</button>
    </p>
  </form>
</Panel>

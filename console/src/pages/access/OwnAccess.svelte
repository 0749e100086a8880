<script lang="ts">
  import { api, got } from '../../lib/api';
  import Panel from '../../lib/components/Panel.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { Load } from '../../lib/load.svelte';
  import PasswordField from './PasswordField.svelte';

  let open = $state<'' | 'password' | 'others'>('');
  let current = $state('');
  let fresh = $state('');
  let told = $state('');

  const change = new Load(async () => {
    await got(api.PUT('/api/v1/session/password', { body: { password: fresh, current } }));
    done('Your password is set; your other sessions have ended.');
    return true;
  });
  const end = new Load(async () => {
    await got(api.POST('/api/v1/session/others/end', { body: { password: current } }));
    done('Your other sessions have ended.');
    return true;
  });

  function done(text: string): void {
    told = text;
    close();
  }

  function close(): void {
    open = current = fresh = '';
    change.problem = end.problem = null;
  }

  function submit(event: SubmitEvent): void {
    event.preventDefault();
    void (open === 'password' ? change : end).run();
  }
</script>

<p class="row">
  <button class="button" onclick={() => (open = 'password')}>Set password …</button>
  <button class="button" onclick={() => (open = 'others')}>End other sessions …</button>
</p>
<p class="told" role="status">{told}</p>

<Panel
  open={open !== ''}
  title={open === 'others' ? 'End other sessions' : 'Set your password'}
  onclose={close}
>
  <form class="form" onsubmit={submit}>
    {#if open === 'password'}
      <p class="soft">
        After a one-time link, or where there is none yet, the present one is not needed.
      </p>
    {:else}
      <p class="soft">
        Every session of yours but this one ends, on whatever machine; tokens stay.
      </p>
    {/if}
    <PasswordField bind:value={current} required={open === 'others'} />
    {#if open === 'password'}
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
    <ProblemNote problem={open === 'password' ? change.problem : end.problem} />
    <p>
      <button class="button do" disabled={change.busy || end.busy}
        >{open === 'others' ? 'End them' : 'Set it'}</button
      >
      <button type="button" class="button plain" onclick={close}>Leave it</button>
    </p>
  </form>
</Panel>

<style>
  .row {
    display: flex;
    gap: 8px;
    flex-wrap: wrap;
  }
  .told {
    margin: 8px 0 0;
  }
</style>

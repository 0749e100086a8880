<script lang="ts">
  import Later from '../../lib/components/Later.svelte';

  let what = $state<'' | 'password' | 'others'>('');
  let told = $state('');
</script>

<p class="row">
  <button class="button" onclick={() => (what = 'password')}>Set password …</button>
  <button class="button" onclick={() => (what = 'others')}>End other sessions …</button>
</p>
<p class="told" role="status">{told}</p>

{#if what}
  <Later
    load={() => import('./OwnDialog.svelte')}
    {what}
    onclose={() => (what = '')}
    ondone={(text) => {
      told = text;
      what = '';
    }}
  />
{/if}

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

<script lang="ts">
  import { FileUpload } from '@skeletonlabs/skeleton-svelte';
  import { api, got } from '../../lib/api';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { plural } from '../../lib/format';
  import { Load } from '../../lib/load.svelte';
  import { changed } from '../../lib/query.svelte';

  /** What an application that is kept by hand holds now, as a file says. */
  let { id }: { id: string } = $props();
  let file: File | null = null;
  const taking = new Load(async () => {
    const params = { path: { application_id: id } };
    const taken = await got(
      api.POST('/api/v1/applications/{application_id}/accounts-file', {
        params,
        body: file as never,
        bodySerializer: (body: unknown) => body as Blob,
        headers: { 'Content-Type': 'text/csv' }
      })
    );
    await got(api.POST('/api/v1/applications/{application_id}/read', { params }));
    changed(['applications', 'accounts', 'findings']);
    return taken;
  });
</script>

<h2>What it holds, from a file</h2>
<FileUpload
  maxFiles={1}
  onFileAccept={({ files }) => {
    file = files[0] ?? null;
    if (file) void taking.run();
  }}
>
  <FileUpload.Trigger class="button">Choose a file …</FileUpload.Trigger>
  <FileUpload.HiddenInput />
</FileUpload>
<p class="soft">
  CSV, UTF-8: login, name, number, state, groups. All of it is what the application holds then; an
  account that is not in it is gone.
</p>
{#if taking.data}
  <p role="status">{plural(taking.data.accounts, 'account')} taken and read.</p>
{/if}
<ProblemNote problem={taking.problem} />

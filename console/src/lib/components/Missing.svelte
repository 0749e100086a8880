<svelte:options runes={true} />

<script lang="ts"></script>

<h1>This page did not load</h1>
<p>The service did not answer, or has been updated. <a href={location.pathname}>Try again</a>.</p>

<svelte:options runes={true} />

<script lang="ts"></script>

<h1>Nothing is here</h1>
<p>There is no page at this address. <a href="/">Go to the day sheet</a>.</p>

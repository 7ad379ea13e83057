<script lang="ts">
  import { keys } from './keys';
  import Modal from './Modal.svelte';
  import { dialogs } from './dialogs.svelte';
</script>

<Modal open={dialogs.open === 'keys'} titleId="keys-title" width="max-w-2xl" onclose={() => dialogs.close('keys')}>
  <h2 id="keys-title" class="mb-4 text-2xl">Keys</h2>
  <dl class="grid gap-x-8 gap-y-2 sm:grid-cols-2">
    {#each keys as key (key.shown)}
      <div class="flex items-baseline justify-between gap-4">
        <dt class="order-2 text-right"><kbd>{key.shown}</kbd></dt>
        <dd>{key.does}</dd>
      </div>
    {/each}
  </dl>
  <form method="dialog" class="modal-action"><button class="btn btn-primary">Close</button></form>
</Modal>

<script lang="ts">
  import { keys } from './keys';

  let dialog: HTMLDialogElement;

  export function open() {
    dialog.showModal();
  }
</script>

<dialog bind:this={dialog} class="modal" aria-labelledby="keys-title">
  <div class="modal-box max-w-2xl">
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
  </div>
  <form method="dialog" class="modal-backdrop"><button tabindex="-1" aria-label="Close">Close</button></form>
</dialog>

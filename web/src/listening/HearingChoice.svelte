<script lang="ts">
  // Where the strikes come from, and which input of the machine.
  import { drumKit } from '../kit/drumKit.svelte';
  import { workbench } from '../bench/workbench.svelte';
  import { view } from '../shell/view.svelte';
  import { listening, type Hearing } from './listen.svelte';
  import { chooseInput, chosenInput, inputs } from './microphone';

  const WAYS: { hearing: Hearing; word: string }[] = [
    { hearing: 'microphone', word: 'Microphone' },
    { hearing: 'simulated', word: 'Simulated drum' },
  ];

  let found = $state.raw<MediaDeviceInfo[]>([]);
  let input = $state(chosenInput());
  $effect(() => {
    // Asked again after each session: names are known only once the microphone was allowed.
    if (!listening.open) void inputs().then((all) => (found = all.filter((each) => each.label !== '')));
  });
</script>

<fieldset class="flex flex-wrap items-center gap-2">
  <legend class="sr-only">Where the strikes come from</legend>
  <div class="join">
    {#each WAYS as { hearing, word } (hearing)}
      <label class="btn join-item has-checked:btn-secondary has-focus-visible:outline-accent has-focus-visible:outline-3">
        <input type="radio" name="hearing" class="sr-only" value={hearing} bind:group={listening.hearing} />{word}
      </label>
    {/each}
  </div>
  {#if listening.hearing === 'microphone' && found.length > 1}
    <select class="select w-52" aria-label="Input" bind:value={input} onchange={() => chooseInput(input)}>
      <option value="">The browser’s usual input</option>
      {#each found as device (device.deviceId)}<option value={device.deviceId}>{device.label}</option>{/each}
    </select>
  {/if}
  {#if listening.hearing === 'simulated' && drumKit.drum}
    <span class="soft text-sm"
      >It stands in for a real drum{workbench.bench?.treatment && view.place === 'bench' ? ', with what is on it' : ''}.</span
    >
  {/if}
</fieldset>

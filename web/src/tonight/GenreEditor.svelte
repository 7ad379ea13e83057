<script lang="ts">
  import { within } from '../shell/figures';
  import { api } from '../api/client';

  import type { Genre, NoteValue, Preset, Wish } from '../api/types';
  import { playedTonight } from './playedTonight.svelte';
  import { drumKit } from '../kit/drumKit.svelte';
  import { load } from '../shell/load';
  import { notices } from '../shell/notices.svelte';
  import { night } from './night.svelte';
  import { NOTES } from './say';
  import { without } from './without';
  import { dialogs } from '../shell/dialogs.svelte';
  import Modal from '../shell/Modal.svelte';
  import NumberField from '../shell/NumberField.svelte';

  const DRUMS = { snare: 'Snare', tom: 'Toms', floor_tom: 'Floor tom', kick: 'Kick' };
  type Role = keyof typeof DRUMS;
  const LENGTHS = [
    ['ring_gone', 'Ring gone within'],
    ['body_least', 'Body at least'],
    ['body_most', 'Body at most'],
  ] as const;
  const SECONDS = [
    ['floor_s', 'Never asked sooner than, s', undefined],
    ['ceiling_s', 'Ring gone at the latest, s', 'the song decides'],
    ['ring_over_body_most', 'Ring, times the body at most', 'any'],
  ] as const;

  let input = $state<HTMLInputElement>();
  let preset = $state<Preset>();
  let origin = $state<Genre['origin'] | 'new'>('new');
  let kind = $state<Role>('snare');
  let refused = $state('');
  let heard = $state('');
  let busy = $state(false);

  const close = () => dialogs.close('genre');

  /** For the genre that the dialog is about, or for a new one that begins as tonight's. */
  function opened() {
    const genre = playedTonight.genres.find((each) => each.code === dialogs.of);
    if (dialogs.of !== undefined && !genre) return dialogs.missing('genre');
    const from = genre ?? playedTonight.genres.find((each) => each.code === drumKit.kit?.tonight.genre) ?? playedTonight.genres[0];
    if (!from) return close();
    const content = without(from, 'origin', 'said_name', 'said_reason');
    preset = genre ? content : { ...content, code: '', name: '', reason: '' };
    origin = genre ? from.origin : 'new';
    refused = '';
    heard = copied = '';
  }

  /** Begins a new genre as another one is, whatever was entered so far but its name. */
  function beginAs(code: string) {
    const from = playedTonight.genres.find((each) => each.code === code);
    if (!from || !preset) return;
    preset = {
      ...without($state.snapshot(from), 'origin', 'said_name', 'said_reason'),
      code: '',
      name: preset.name,
      reason: preset.reason,
    };
  }

  /** What is wanted of the drum that is looked at is wanted of all of them; what each is usually played with stays. */
  function sameForAll() {
    if (!preset || !wish) return;
    const from = $state.snapshot(wish);
    for (const each of Object.keys(DRUMS) as Role[]) preset[each] = { ...from, usual: preset[each].usual ?? null };
    copied = `All drums as the ${within(DRUMS[kind])}.`;
  }

  let copied = $state('');
  const wish = $derived<Wish | undefined>(preset?.[kind]);
  const isSeconds = (length: Wish['body_least']): length is number => typeof length === 'number';
  const isPart = (length: Wish['body_least']): length is { of_open: number } => typeof length === 'object';

  /** A code of small letters that no other genre has. */
  function codeOf(name: string): string {
    const plain =
      name
        .toLowerCase()
        .normalize('NFKD')
        .replace(/[^a-z0-9]+/g, '_')
        .replace(/^_+|_+$/g, '')
        .slice(0, 50) || 'own';
    let code = plain;
    for (let i = 2; playedTonight.genres.some((each) => each.code === code); i++) code = `${plain}_${i}`;
    return code;
  }

  async function takeFrom(file: File | undefined) {
    if (!file || !preset) return;
    busy = true;
    refused = '';
    heard = '';
    try {
      const model = await api.wishFromSound(kind, file);
      preset[kind] = model.wish;
      heard = `${DRUMS[kind]} as in ${file.name}. ${model.notes.join(' ')}`;
    } catch (error) {
      refused = `${file.name}: ${error instanceof Error ? error.message : String(error)}`;
    } finally {
      busy = false;
      if (input) input.value = '';
    }
  }

  async function save(event: SubmitEvent) {
    event.preventDefault();
    if (!preset) return;
    const whole = $state.snapshot(preset);
    if (origin === 'new') whole.code = codeOf(whole.name);
    try {
      await api.setPreset(whole);
      close();
      await load();
      await night.load();
    } catch (error) {
      refused = error instanceof Error ? error.message : String(error);
    }
  }

  async function reset() {
    if (!preset) return;
    const before = playedTonight.genres.find((each) => each.code === preset?.code);
    try {
      await api.resetPreset(preset.code);
      close();
      notices.add(origin === 'own' ? `${preset.name} was removed.` : `${preset.name} is as it came.`, async () => {
        if (before) await api.setPreset(without(before, 'origin', 'said_name', 'said_reason'));
        await load();
        await night.load();
      });
      await load();
      await night.load();
    } catch (error) {
      refused = error instanceof Error ? error.message : String(error);
    }
  }
</script>

<Modal open={dialogs.open === 'genre'} titleId="genre-title" width="max-w-3xl" onopen={opened} onclose={close}>
  <h2 id="genre-title" class="mb-4 text-2xl">{origin === 'new' ? 'A genre of your own' : 'Edit the genre'}</h2>
  {#if preset && wish}
    <form class="grid gap-4" onsubmit={(event) => void save(event)}>
      <div class="grid gap-3 sm:grid-cols-4">
        <label class="grid gap-1 sm:col-span-2">
          <span>Name</span><input class="input w-full text-lg" bind:value={preset.name} required maxlength="60" dir="auto" />
        </label>
        <NumberField label="Usual tempo, BPM" min={30} max={300} bind:value={preset.usual_bpm} />
        <label class="grid gap-1">
          <span>Usually</span>
          <select class="select w-full" bind:value={preset.loudness}>
            {#each night.choices?.loudnesses ?? [] as each (each.loudness)}<option value={each.loudness}>{within(each.name)}</option>{/each}
          </select>
        </label>
        <label class="grid gap-1">
          <span>School</span>
          <select class="select w-full" bind:value={preset.school}>
            <option value="open">open</option><option value="controlled">controlled</option><option value="dead">dead</option>
          </select>
        </label>
        {#if origin === 'new'}
          <label class="grid gap-1 sm:col-span-4">
            <span>Begins as</span>
            <select class="select w-full" onchange={(event) => beginAs(event.currentTarget.value)}>
              {#each playedTonight.genres as each (each.code)}<option value={each.code} selected={each.code === drumKit.kit?.tonight.genre}
                  >{each.said_name}</option
                >{/each}
            </select>
          </label>
        {/if}
        <label class="grid gap-1 sm:col-span-3">
          <span>Why</span><input class="input w-full" bind:value={preset.reason} maxlength="500" dir="auto" />
        </label>
      </div>
      <div class="flex flex-wrap gap-2" role="radiogroup" aria-label="Drum">
        {#each Object.entries(DRUMS) as [value, word] (value)}
          <label class="btn has-checked:btn-secondary has-focus-visible:outline-3">
            <input
              type="radio"
              class="sr-only"
              name="genre-drum"
              {value}
              checked={kind === value}
              onchange={() => (kind = value as Role)}
            />{word}
          </label>
        {/each}
        <button type="button" class="btn btn-ghost" onclick={sameForAll}>Same for all drums</button>
        {#if copied}<span class="text-success self-center" role="status">{copied}</span>{/if}
      </div>
      <div class="border-base-300 grid items-start gap-3 rounded-box border p-4 sm:grid-cols-3">
        {#each LENGTHS as [name, words] (name)}
          {@const length = wish[name]}
          <div class="grid gap-1">
            <label for="length-{name}">{words}</label>
            <select
              id="length-{name}"
              class="select w-full"
              value={isSeconds(length) ? 'seconds' : isPart(length) ? 'part' : length}
              onchange={(event) => {
                const { value } = event.currentTarget;
                if (!wish) return;
                if (value === 'part') wish.body_least = { of_open: 0.5 };
                else wish[name] = value === 'seconds' ? 0.3 : (value as NoteValue);
              }}
            >
              {#if name === 'body_least'}<option value="part">a part of the open drum</option>{/if}
              {#each Object.entries(NOTES) as [note, noteWords] (note)}<option value={note}>{noteWords}</option>{/each}
              <option value="seconds">a time in seconds</option>
            </select>
            {#if isSeconds(length)}
              <label class="flex items-center gap-2">
                <input
                  class="input w-28"
                  type="number"
                  min="0.01"
                  max="10"
                  step="any"
                  required
                  value={length}
                  aria-label="{words}, seconds"
                  onchange={(event) => {
                    if (wish) wish[name] = event.currentTarget.valueAsNumber;
                  }}
                /> s
              </label>
            {:else if isPart(length)}
              <label class="flex items-center gap-2">
                <input
                  class="input w-28"
                  type="number"
                  min="0"
                  max="100"
                  required
                  value={Math.round(100 * length.of_open)}
                  aria-label="{words}, percent of the open drum"
                  onchange={(event) => {
                    if (wish) wish.body_least = { of_open: event.currentTarget.valueAsNumber / 100 };
                  }}
                /> % of it
              </label>
            {/if}
          </div>
        {/each}
        {#each SECONDS as [name, words, none] (name)}
          <label class="grid gap-1">
            <span>{words}</span>
            <input
              class="input w-full"
              type="number"
              min={name === 'ring_over_body_most' ? 0.1 : 0.01}
              max={name === 'ring_over_body_most' ? 20 : 10}
              step="any"
              required={none === undefined}
              placeholder={none}
              value={wish[name]}
              onchange={(event) => {
                const { valueAsNumber: value } = event.currentTarget;
                if (!wish) return;
                if (name === 'floor_s') wish.floor_s = value;
                else wish[name] = Number.isNaN(value) ? null : value;
              }}
            />
          </label>
        {/each}
        <NumberField label="Attack it may lose, dB" min={0} max={20} bind:value={wish.attack_loss_most_db} />
        <label class="grid gap-1">
          <span>Tuned</span>
          <select class="select w-full" bind:value={wish.register}>
            <option value="low">low</option><option value="middle">in the middle</option><option value="high">high</option>
          </select>
        </label>
        <label class="grid gap-1 sm:col-span-2">
          <span>Usually played with</span>
          <select class="select w-full" bind:value={wish.usual}>
            <option value={null}>nothing known</option>
            {#each night.usual.filter((each) => each.kinds.includes(kind)) as each (each.usual)}<option value={each.usual}
                >{each.words}</option
              >{/each}
          </select>
        </label>
        <div class="sm:col-span-3">
          <input
            bind:this={input}
            type="file"
            class="hidden"
            tabindex="-1"
            accept="audio/*,video/mp4,video/quicktime,.wav,.flac,.aif,.aiff,.ogg,.mp3,.m4a,.caf,.mp4,.mov"
            aria-label="Model sound"
            onchange={() => void takeFrom(input?.files?.[0])}
          />
          <button type="button" class="btn btn-sm" disabled={busy} onclick={() => input?.click()}>
            {busy ? 'Measuring …' : `Take the ${within(DRUMS[kind])} from a sound file …`}
          </button>
          <span class="soft text-sm">One drum by itself, a few strikes. Mixed music cannot be taken apart.</span>
          {#if heard}<p class="text-success mt-1" role="status">{heard}</p>{/if}
        </div>
      </div>
      {#if refused}<p class="text-error" role="alert">{refused}</p>{/if}
      <div class="flex flex-wrap gap-2">
        <button class="btn btn-primary">{origin === 'new' ? 'Add it' : 'Save'}</button>
        <button type="button" class="btn btn-ghost" onclick={close}>Cancel</button>
        {#if origin === 'changed' || origin === 'own'}
          <button type="button" class="btn btn-ghost text-error ml-auto" onclick={() => void reset()}>
            {origin === 'own' ? 'Remove it' : 'As it came'}
          </button>
        {/if}
      </div>
    </form>
  {/if}
</Modal>

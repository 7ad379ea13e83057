<script lang="ts">
  import { api, type VenueSound } from '../api/client';
  import type { Loudness, RoomClass, Venue } from '../api/types';
  import { drumKit } from '../kit/drumKit.svelte';
  import { playedTonight } from './playedTonight.svelte';
  import { server } from '../shell/server.svelte';
  import { notices } from '../shell/notices.svelte';
  import { counted, seconds, fixed } from '../shell/figures';
  import Hearing from './Hearing.svelte';
  import { night } from './night.svelte';
  import { without } from './without';
  import { dialogs } from '../shell/dialogs.svelte';
  import Modal from '../shell/Modal.svelte';

  const NEW: Venue = {
    name: '',
    room: { from: 'class', class: 'club' },
    loudness: null,
    heard: 'bare_ear',
    band: null,
    empty: null,
    distance_m: null,
    notes: '',
    room_modes: [],
  };

  let id = $state<number>();
  let venue = $state<Venue>(structuredClone(NEW));
  let refused = $state('');
  let found = $state('');

  const isOpen = $derived(dialogs.open === 'venue');
  const close = () => dialogs.close('venue');

  /** For the venue that the dialog is about, or for a new one. */
  function opened() {
    const kept = night.venues.find((each) => each.id.toString() === dialogs.of);
    if (dialogs.of !== undefined && !kept) return dialogs.missing('venue');
    id = kept?.id;
    venue = kept ? without(kept, 'id') : structuredClone(NEW);
    refused = '';
    found = '';
  }

  const choices = $derived(night.choices);
  const octaves = $derived(choices?.octaves_hz ?? []);
  const hz = (value: number) => (value >= 1000 ? `${value / 1000} kHz` : `${value} Hz`);
  /** The class that a measured or typed room is nearest to, for the simulated one. */
  const roomClass = $derived<RoomClass>(venue.room.from === 'class' ? venue.room.class : 'club');
  const simulated = $derived({ simulated: roomClass, loudness: venue.loudness ?? 'moderate' });
  const loudness = $derived(choices?.loudnesses.find((each) => each.loudness === venue.loudness));

  const heard = $derived(choices?.heard.find((each) => each.heard === venue.heard));

  function chooseRoom(code: string) {
    // What was heard in it says nothing about another room.
    if (code !== 'measured') venue.room_modes = [];
    if (code === 'typed') {
      const rooms = choices?.rooms.find((each) => venue.room.from === 'class' && each.class === venue.room.class);
      venue.room = { from: 'typed', t60_s: (rooms?.t60_s ?? octaves.map(() => null)).map((t) => t ?? null) };
    } else if (code !== 'measured') venue.room = { from: 'class', class: code as RoomClass };
  }

  async function measureRoom(sound: VenueSound) {
    const decay = await api.measureRoom(sound);
    venue.room = { from: 'measured', t60_s: decay.t60_s };
    venue.room_modes = decay.modes;
    const known = decay.t60_s.filter((each) => each != null).length;
    const spread = Math.max(0, ...decay.spread_s.map((each) => each ?? 0));
    const doubt = spread > 0 ? ` They differ by up to ± ${seconds(spread)}.` : '';
    found = `${counted(decay.decays, 'clap', 'claps')} heard; ${known} of ${octaves.length} octaves measured.${doubt}`;
  }

  async function measureLevels(which: 'band' | 'empty', sound: VenueSound) {
    venue[which] = await api.measureLevels(sound, which === 'band' ? 'band' : 'empty_room');
    found = which === 'band' ? 'The band is measured.' : 'The empty room is measured.';
    if (which === 'band' && venue.band?.drums_play)
      found = 'The band is measured, but drums play in it. They would cover themselves: hear the band again without drums.';
  }

  async function save(event: SubmitEvent) {
    event.preventDefault();
    try {
      const whole = $state.snapshot(venue);
      const kept = id === undefined ? await api.addVenue(whole) : await api.changeVenue(id, whole);
      close();
      if (id === undefined && drumKit.kit?.tonight.venue_id == null) await playedTonight.set({ venue_id: kept.id });
      await night.changed();
    } catch (error) {
      refused = error instanceof Error ? error.message : String(error);
    }
  }

  async function remove() {
    const gone = id;
    if (gone === undefined) return;
    const tonight = drumKit.kit?.tonight.venue_id === gone;
    close();
    await server.attempt(async () => {
      await api.removeVenue(gone);
      notices.add(`“${venue.name}” was removed.`, async () => {
        await api.bringBackVenue(gone);
        if (tonight) await playedTonight.set({ venue_id: gone });
        await night.load();
      });
      await night.changed();
    });
  }
</script>

<Modal open={isOpen} titleId="venue-title" width="max-w-3xl" onopen={opened} onclose={close}>
  <h2 id="venue-title" class="mb-4 text-2xl">{id === undefined ? 'A new venue' : 'Edit the venue'}</h2>
  {#if isOpen && choices}
    <form class="grid gap-5" onsubmit={(event) => void save(event)}>
      <label class="grid gap-1">
        <span>Name</span>
        <input class="input w-full text-lg" bind:value={venue.name} required maxlength="80" dir="auto" />
      </label>
      <fieldset class="grid gap-2">
        <legend class="display mb-1 text-lg">What the room adds</legend>
        <select
          class="select w-full"
          aria-label="The room"
          value={venue.room.from === 'class' ? venue.room.class : venue.room.from}
          onchange={(event) => chooseRoom(event.currentTarget.value)}
        >
          {#each choices.rooms as room (room.class)}<option value={room.class}>{room.name}: {room.words}</option>{/each}
          <option value="typed">Reverberation times that I know</option>
          {#if venue.room.from === 'measured'}<option value="measured">Measured</option>{/if}
        </select>
        {#if venue.room.from !== 'class'}
          {@const room = venue.room}
          <div class="grid grid-cols-4 gap-2 sm:grid-cols-7">
            {#each octaves as octave, index (octave)}
              <label class="grid gap-1 text-sm">
                <span class="soft">{hz(octave)}</span>
                {#if room.from === 'typed'}
                  <input
                    class="input input-sm w-full"
                    type="number"
                    min="0.05"
                    max="20"
                    step="any"
                    bind:value={room.t60_s[index]}
                    aria-label="Seconds at {hz(octave)}"
                  />
                {:else}
                  <span class="text-lg">{room.t60_s[index] == null ? 'not heard' : `${fixed(room.t60_s[index], 2)} s`}</span>
                {/if}
              </label>
            {/each}
          </div>
        {/if}
        {#if venue.room_modes.length > 0}
          <p>
            Low tones that it holds by itself: {venue.room_modes
              .map(
                (mode) =>
                  `${fixed(mode.hz, 0)} Hz for ${seconds(mode.t60_s)}${mode.t60_sd_s == null ? '' : ` ± ${seconds(1.645 * mode.t60_sd_s)}`}`,
              )
              .join(', ')}. Tune names the bass notes that lie on them, and a kick that does.
          </p>
        {/if}
        <p class="soft text-sm">
          Reverberation time, s to fall by 60 dB. To measure it, clap three times from where you sit and keep quiet between the claps. The
          noise comes out of your loudspeaker: begin with the volume low, and protect your ears.
        </p>
        <Hearing label="Clap and listen" length={9} during="Clap three times, quiet between:" burst {simulated} measure={measureRoom} />
      </fieldset>
      <fieldset class="grid gap-2">
        <legend class="display mb-1 text-lg">How loud the band is</legend>
        <div class="grid gap-3 sm:grid-cols-2">
          <select
            class="select w-full"
            aria-label="Loudness"
            value={venue.loudness ?? ''}
            onchange={(event) => (venue.loudness = (event.currentTarget.value || null) as Loudness | null)}
          >
            <option value="">As loud as the genre usually is</option>
            {#each choices.loudnesses as each (each.loudness)}<option value={each.loudness}>{each.name}</option>{/each}
          </select>
          <select class="select w-full" aria-label="How the drums are heard" bind:value={venue.heard}>
            {#each choices.heard as each (each.heard)}<option value={each.heard}>{each.name}</option>{/each}
          </select>
        </div>
        {#if venue.heard === 'bare_ear'}
          <label class="flex flex-wrap items-center gap-2">
            <span>How far away people stand, in m</span>
            <input class="input w-28" type="number" min="0.3" max="100" step="any" placeholder="usual" bind:value={venue.distance_m} />
          </label>
        {/if}
        <p class="soft text-sm">
          {loudness ? `${loudness.name}: ${loudness.words}. ` : ''}{heard ? `${heard.name}: ${heard.words}.` : ''}
        </p>
        {#if loudness && loudness.exposure_minutes < 480}
          <p class="border-warning border-l-4 pl-3 text-sm">
            About {loudness.dba} dB(A) at your ears: without protection no more than {loudness.exposure_minutes < 60
              ? `${Math.round(loudness.exposure_minutes)} min`
              : `${fixed(loudness.exposure_minutes / 60, 1)} h`} a day. {choices.exposure_source}
          </p>
        {/if}
        <p class="soft text-sm">
          Better than a class: ten seconds of the band without you, heard with the same microphone and gain as your strikes; then nothing
          has to be calibrated. The empty room may be added.
        </p>
        <div class="grid gap-3 sm:grid-cols-2">
          {#each [['band', 'Hear the band', 'The band plays:'], ['empty', 'Hear the empty room', 'Everybody quiet:']] as const as [which, label, during] (which)}
            <div class="border-base-300 grid content-start gap-2 rounded-box border p-3">
              {#if venue[which]}
                <p class="flex items-baseline gap-2">
                  <span class="grow">{which === 'band' ? 'Band' : 'Empty room'}, dB against full scale</span>
                  <button type="button" class="btn btn-sm" onclick={() => (venue[which] = null)}>Forget</button>
                </p>
                <p class="soft flex flex-wrap gap-x-3 text-sm">
                  {#each venue[which]?.level_dbfs ?? [] as level, index (index)}
                    <span>{hz(octaves[index] ?? 0)}: {level == null ? '–' : Math.round(level)}</span>
                  {/each}
                </p>
              {/if}
              <Hearing {label} length={10} {during} {simulated} measure={(sound) => measureLevels(which, sound)} />
            </div>
          {/each}
        </div>
      </fieldset>
      <label class="grid gap-1">
        <span>Notes</span>
        <textarea class="textarea w-full" rows="2" maxlength="2000" bind:value={venue.notes} dir="auto"></textarea>
      </label>
      <p role="status" class={found ? 'text-success' : ''}>{found}</p>
      {#if refused}<p class="text-error" role="alert">{refused}</p>{/if}
      <div class="flex flex-wrap gap-2">
        <button class="btn btn-primary">{id === undefined ? 'Add it' : 'Save'}</button>
        <button type="button" class="btn btn-ghost" onclick={close}>Cancel</button>
        {#if id !== undefined}<button type="button" class="btn btn-ghost text-error ml-auto" onclick={() => void remove()}>Remove it</button
          >{/if}
      </div>
    </form>
  {/if}
</Modal>

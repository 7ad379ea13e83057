<script lang="ts">
  import type { KeptDrum, Opinion } from '../api/types';
  import { isMetal } from '../kit/kinds.svelte';
  import { workbench } from './workbench.svelte';
  import { drumKit } from '../kit/drumKit.svelte';
  import { playedTonight } from '../tonight/playedTonight.svelte';
  import { seconds } from '../shell/figures';
  import { genreTonight, playGenre } from '../shell/genre';
  import { characters } from './characters.svelte';
  import ShapeFields from './ShapeFields.svelte';
  import Tempo from './Tempo.svelte';
  import { wantedLength } from './trails';
  import Wish from './Wish.svelte';

  /** What there may be too much of in a cymbal. */
  const SOUNDS: [KeptDrum['too_much'], string][] = [
    [null, 'Leave it open'],
    ['wash', 'Too washy'],
    ['brightness', 'Too bright'],
    ['loudness', 'Too loud'],
  ];

  /** Says how the drum is wanted: as the genre has it, in a word, or as it sounds now. */
  function want(drum: KeptDrum, chosen: string) {
    const info = characters.all.find((each) => each.character === chosen);
    if (info) void workbench.wantDrum(drum, { kind: 'word', word: info.character }, `${drum.name}: ${info.meaning}.`);
    else if (chosen === 'as_it_is') void workbench.wantDrum(drum, { kind: 'as_it_is' }, 'As it sounds now is how you want it.');
    else void workbench.wantDrum(drum, { kind: 'genre' }, 'As the genre has it.');
  }

  let shaping = $state(false);
  $effect(() => void characters.load());

  const OPINIONS: [Opinion, string][] = [
    ['like_it', 'I like it'],
    ['too_dead', 'Too dead'],
    ['too_ringy', 'Too ringy'],
  ];

  const tonight = $derived(drumKit.kit?.tonight);
  const bench = $derived(workbench.bench);
  const wanted = $derived(bench?.wanted);
  /** The drum as it is now. */
  const now = $derived(bench?.treatment ? bench.found?.assessment : bench?.open?.assessment);
  /** What the overtone is called that is heard longest: the ring, or another one beside it. */
  const overtone = $derived(
    now?.ring_length_hz == null
      ? 'Ring, heard for'
      : `${now.longest_is_ring ? 'Ring' : 'Overtone'} at ${Math.round(now.ring_length_hz)} Hz, heard for`,
  );
  const genre = $derived(genreTonight());
</script>

<section aria-labelledby="want-title">
  <h2 id="want-title" class="mb-2 text-2xl">Want</h2>
  {#if drumKit.kit?.song || drumKit.kit?.venue}
    <p class="mb-2 text-lg">
      {#if drumKit.kit.song}<bdi class="font-semibold">{drumKit.kit.song}</bdi>{/if}
      {#if drumKit.kit.venue}<span class="soft">in the <bdi>{drumKit.kit.venue}</bdi></span>{/if}
    </p>
  {/if}
  {#if tonight}
    <div class="mb-3 grid gap-2 sm:grid-cols-2 lg:grid-cols-1">
      <label class="grid gap-1">
        <span class="soft">Tonight’s genre</span>
        <select
          class="select w-full text-lg"
          value={tonight.genre}
          onchange={(event) => {
            const chosen = playedTonight.genres.find((each) => each.code === event.currentTarget.value);
            if (chosen) void playGenre(chosen);
          }}
        >
          {#each playedTonight.genres as each (each.code)}<option value={each.code}>{each.said_name}</option>{/each}
        </select>
      </label>
      <Tempo bpm={tonight.bpm} />
    </div>
  {/if}
  {#if bench && !isMetal(bench.drum.kind)}
    {@const { drum } = bench}
    {@const own = drum.own_wish}
    <div class="mb-3 grid gap-1">
      <label class="grid gap-1">
        <span class="soft">How you want this drum</span>
        <select
          class="select w-full text-lg"
          value={own == null ? 'genre' : own.kind === 'as_it_was' ? 'as_it_was' : (own.word ?? 'own')}
          onchange={(event) => want(drum, event.currentTarget.value)}
        >
          <option value="genre">As the genre has it</option>
          {#each characters.all as { character, word: name, meaning } (character)}<option value={character}
              >{name.charAt(0).toUpperCase() + name.slice(1)}: {meaning}</option
            >{/each}
          {#if own?.kind === 'shaped' && !own.word}<option value="own">In figures of its own</option>{/if}
          {#if own?.kind === 'as_it_was'}<option value="as_it_was">As it was when you liked it</option>{/if}
          {#if now}<option value="as_it_is">As it sounds now</option>{/if}
        </select>
      </label>
      {#if wanted?.own}
        <p>
          {wanted.own}
          {#if own?.kind === 'shaped'}<button class="link" aria-expanded={shaping} onclick={() => (shaping = !shaping)}
              >{shaping ? 'Close the figures' : 'Change the figures'}</button
            >{/if}
        </p>
      {/if}
      {#if shaping && own?.kind === 'shaped'}<ShapeFields {drum} shape={own} />{/if}
    </div>
  {/if}
  {#if bench && isMetal(bench.drum.kind)}
    {@const { drum } = bench}
    <div class="mb-3 grid gap-1" role="group" aria-label="How it sounds">
      <span class="soft">How it sounds to you</span>
      <div class="flex flex-wrap gap-1">
        {#each SOUNDS as [too_much, words] (words)}
          <button
            class="btn btn-sm {(drum.too_much ?? null) === too_much ? 'btn-secondary' : ''}"
            aria-pressed={(drum.too_much ?? null) === too_much}
            onclick={() => void workbench.setTooMuch(drum, too_much)}>{words}</button
          >
        {/each}
      </div>
    </div>
  {/if}
  {#if wanted?.left_alone}
    <p class="text-lg">{wanted.because[0]}</p>
  {:else if wanted}
    <dl class="grid gap-2">
      <Wish
        fits={now?.fits}
        name={overtone}
        is={now?.ring_length_s}
        show={seconds}
        most={now?.ring_length_most_s ?? wanted.ring_length_most_s}
      />
      {#if wantedLength(wanted, 'body')}
        <Wish
          fits={now?.fits}
          name="Body, heard for"
          is={now?.body_length_s}
          show={seconds}
          least={wanted.body_length_least_s > 0 ? wanted.body_length_least_s : undefined}
          most={wanted.body_length_most_s}
        />
      {/if}
    </dl>
    {#if now && !now.fits}
      <ul class="mt-3 grid gap-1 text-lg" aria-label="What is off">
        {#each now.off as verdict (verdict.aspect)}<li>{verdict.sentence}</li>{:else}<li>
            No clear body was found, so this cannot be judged.
          </li>{/each}
      </ul>
    {:else if now}
      <p class="text-success mt-3 text-lg font-semibold">
        {now.fit === 'in' ? 'It fits.' : 'It nearly fits: what is off is too little to be sure of.'}
      </p>
    {/if}
    {#if bench && now}
      <div class="mt-3 flex flex-wrap items-center gap-1" role="group" aria-label="To your ears">
        <span class="soft mr-1">To your ears</span>
        {#each OPINIONS as [opinion, words] (opinion)}
          <button class="btn btn-sm" onclick={() => void workbench.say(bench.drum.id, opinion)}>{words}</button>
        {/each}
      </div>
      {#if wanted.liked}
        <p class="mt-2">
          {wanted.liked.sentence}
          <button class="link" onclick={() => void workbench.forgetOpinions(bench.drum.id)}>Forget it</button>
        </p>
      {/if}
    {/if}
    {#if now?.room}<p class="border-info mt-3 border-l-4 pl-3 text-lg">{now.room.sentence}</p>{/if}
    {#if now?.pitch}<p class="soft mt-2">{now.pitch}</p>{/if}
    <details class="mt-3">
      <summary class="soft">How the wish comes about</summary>
      <ul class="mt-2 grid list-disc gap-1 pl-5">
        {#each wanted.because.filter((sentence) => sentence !== genre?.said_reason) as sentence (sentence)}<li>
            {sentence}
          </li>{/each}
      </ul>
      {#if genre}<p class="soft mt-2">{genre.said_reason}</p>{/if}
    </details>
  {/if}
</section>

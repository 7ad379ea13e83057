import { describe, expect, it } from 'vitest';
import { type Address, read, titled, written } from './address';

describe('an address', () => {
  it('leads back to where it was written', () => {
    const all: Address[] = [
      { place: 'bench', drum: 3 },
      { place: 'tune', drum: 12 },
      { place: 'front', drum: 1 },
      { place: 'bench' },
      { place: 'shelf' },
      { place: 'tonight', part: 'evening' },
      { place: 'tonight', part: 'genres' },
      { place: 'tonight', part: 'genres', dialog: 'storage' },
      { place: 'bench', drum: 3, dialog: 'look' },
      { place: 'tonight', part: 'songs', dialog: 'song', of: '12' },
      { place: 'tonight', part: 'genres', dialog: 'genre', of: 'hip_hop & more' },
    ];
    for (const address of all) expect(read(written(address))).toEqual({ ...address });
  });

  it('is nothing where it is none of ours, and as near as it can be where part of it is', () => {
    for (const hash of ['', '#', '#bench', '#/attic', '#/Bench/1', 'bench/1']) expect(read(hash)).toBeUndefined();
    expect(read('#/bench/snare')).toEqual({ place: 'bench', drum: undefined });
    expect(read('#/shelf?open=sesame')).toEqual({ place: 'shelf' });
    // Sound begins with a press only.
    expect(written({ place: 'shelf', dialog: 'hear' })).toBe('#/shelf');
    expect(read('#/shelf?open=hear')).toEqual({ place: 'shelf' });
    // A song's dialog lies over the songs, and over nothing else.
    expect(read('#/shelf?open=song&of=12')).toEqual({ place: 'shelf' });
    expect(read('#/tonight/venues?open=song&of=12')).toEqual({ place: 'tonight', part: 'venues' });
    expect(read('#/tonight/nothing')).toEqual({ place: 'tonight', part: 'evening' });
  });

  it('has a title that names the view and its drum', () => {
    expect(titled({ place: 'tune', drum: 2 }, 'Rack tom')).toBe('Rack tom · Tune · Soft Ember');
    expect(titled({ place: 'tonight', part: 'songs' }, 'Rack tom')).toBe('Songs · Soft Ember');
    expect(titled({ place: 'bench' }, undefined)).toBe('Bench · Soft Ember');
  });
});

// What the trade also does to a drum, and why no plan has it: it is done elsewhere in Soft Ember, or left out.

export interface NotHere {
  what: string;
  does: string;
  /** Where it is, or why it is left out. */
  instead: string;
}

export const NOT_HERE: NotHere[] = [
  {
    what: 'Another head',
    does: 'Two plies, a coat or an edge ring shorten the ring; oil between the plies shortens everything.',
    instead: 'In Tune, under “The head that is on”: what another one would do in its place.',
  },
  {
    what: 'No lower head, a mesh, or a large hole in it',
    does: 'A tom becomes short, with a clear pitch, and gives up volume and lows.',
    instead: 'On the bench, under “Lower head”: tried before anything is cut.',
  },
  {
    what: 'Two lugs down on top, two below',
    does: 'A wider note that falls.',
    instead: 'In Tune, under “Deliberately uneven”. No wish asks for a falling note, so no plan has it.',
  },
  {
    what: 'Snare wires',
    does: 'Loose ones are fat and long, tight ones thin and snappy.',
    instead: 'In Tune, under “Snare wires”. How long they buzz is no matter of the head’s ring.',
  },
  {
    what: 'Hand, fingertips or knee',
    does: 'End a note when it should end.',
    instead: 'For concert and marching bass drums, under “Note lengths”.',
  },
  {
    what: 'Another hoop',
    does: 'Metal sharpens the attack, wood softens it.',
    instead: 'Left out: nothing gets shorter by it. Change it for the attack, then measure the drum anew.',
  },
  {
    what: 'Silicone or a belt inside a metal shell',
    does: 'A bead or a belt under the edge takes the shell’s own ring.',
    instead:
      'Left out: messy, for good and poor value, and strikes on the head do not tell what it takes from the shell. Who does it all the same: fresh air while it cures; what is printed on the tube decides.',
  },
];

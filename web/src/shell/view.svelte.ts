// Which view is shown.

export type Place = 'tonight' | 'tune' | 'bench' | 'front' | 'shelf';

class View {
  place = $state<Place>('bench');
  /** Which of the first questions is asked, after a kit was chosen; none once they are answered or left for later. */
  beginning = $state<'shelf' | 'music'>();

  /** Goes to where one drum is looked at: stays where it is tuned or its other end is looked at, else to the bench. */
  atDrum() {
    this.beginning = undefined;
    if (this.place !== 'tune' && this.place !== 'front') this.place = 'bench';
  }
}

export const view = new View();

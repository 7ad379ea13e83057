// Charcoal by default, daylight on demand; remembered by the browser.
const KEY = 'soft-ember-theme';

type Theme = 'charcoal' | 'daylight';

class Look {
  theme = $state<Theme>('charcoal');

  constructor() {
    this.set(localStorage.getItem(KEY) === 'daylight' ? 'daylight' : 'charcoal');
  }

  set(theme: Theme) {
    this.theme = theme;
    document.documentElement.dataset['theme'] = theme;
    localStorage.setItem(KEY, theme);
  }

  toggle() {
    this.set(this.theme === 'charcoal' ? 'daylight' : 'charcoal');
  }
}

export const look = new Look();

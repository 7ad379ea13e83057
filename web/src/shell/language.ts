// The language of the page. What the server says comes in the same one: it reads the cookie.

export const LANGUAGES = { en: 'English', de: 'Deutsch' } as const;
export type Language = keyof typeof LANGUAGES;

const COOKIE = 'language';
const A_YEAR_S = 365 * 24 * 3600;

const isLanguage = (tag: string | undefined): tag is Language => tag !== undefined && Object.hasOwn(LANGUAGES, tag);

/** What was chosen, or else the first language of the browser's that the page knows. */
export function languageOf(cookies: string, spoken: readonly string[]): Language {
  const chosen = cookies
    .split(';')
    .map((cookie) => cookie.trim().split('='))
    .find(([name]) => name === COOKIE)?.[1];
  if (isLanguage(chosen)) return chosen;
  return spoken.map((tag) => tag.toLowerCase().split('-')[0]).find(isLanguage) ?? 'en';
}

const inBrowser = typeof document !== 'undefined' && typeof navigator !== 'undefined';

export const LANGUAGE: Language = inBrowser ? languageOf(document.cookie, navigator.languages) : 'en';

/** Keeps the choice and reads everything again: every view and every sentence of the server's changes at once. */
export function speak(language: Language): void {
  document.cookie = `${COOKIE}=${language}; path=/; max-age=${A_YEAR_S}; samesite=strict`;
  location.reload();
}

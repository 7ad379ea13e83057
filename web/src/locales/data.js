/** @typedef {('en'|'de')} Locale */
/** @type {Locale[]} */
export const locales = ['en','de']
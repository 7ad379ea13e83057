import { mount } from 'svelte';
import { loadLocale } from 'wuchale/load-utils';
import './app.css';
import './locales/components.loader.svelte.js';
import './locales/modules.loader.js';
import { LANGUAGE } from './shell/language';

// Texts are there before the first view asks for one.
document.documentElement.lang = LANGUAGE;
await loadLocale(LANGUAGE);
const { default: App } = await import('./App.svelte');

const target = document.getElementById('app');
if (target) mount(App, { target });

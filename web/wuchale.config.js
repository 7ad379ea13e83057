import { adapter as svelte, svelteDefaultHeuristic } from '@wuchale/svelte';
import { defineConfig } from 'wuchale';
import { adapter as vanilla, Transformer } from 'wuchale/adapter-vanilla';

/** Attributes and calls whose texts nobody reads. */
const UNREAD_ATTRIBUTES =
  /^(class|style|d|id|name|type|role|viewBox|transform|points|href|src|for|data-.*|preserveAspectRatio|autocomplete|inputmode)$/;
const UNREAD_CALLS =
  /^(matchMedia|querySelector|querySelectorAll|addEventListener|closest|fetch|import|getContext|setContext|console\..*|.*localStorage.*)$/;

/** Keys of the keyboard, names of errors and other codes that begin like words. */
const CODES =
  /^(Escape|Page(Up|Down)|Arrow\w*|Delete|Backspace|WAVEfmt |\w+Error|[A-Z]|w-\d+ shrink-0|border-b-4 .*|textarea, .*|M\{0\} .*|M# .*)$/;

/** Sentences are taken whether they begin with a capital or not: what has several words, of letters, is read by somebody. */
function heuristic(message) {
  const text = message.msgStr.join('\n');
  if (CODES.test(text)) return false;
  const taken = svelteDefaultHeuristic(message);
  if (taken || message.details.scope === 'markup') return taken;
  const { attribute, call } = message.details;
  if (attribute && UNREAD_ATTRIBUTES.test(attribute)) return false;
  if (call && UNREAD_CALLS.test(call)) return false;
  // "strike", "strikes": single words that are counted.
  if (call === 'counted' || call === 'said') return 'message';
  if (/^color-mix/.test(text)) return false;
  return /\p{L} \p{L}|\p{L}{3,},? \S|[#}\d] \p{L}{2,}/u.test(text) ? 'message' : false;
}

/** Another language is read from the server anew, so that no text has to change while it is shown. */
const atTheTop = ({ funcName, ctx }) => (funcName == null || ctx.module ? false : null);
const runtime = { initReactive: atTheTop, useReactive: () => false };

/** Texts stand at the top of modules too, in tables: there as well the catalogue must be at hand. */
class ModuleTransformer extends Transformer {
  constructor(...given) {
    super(...given);
    const { finalize } = this;
    this.finalize = (messages, at) => finalize(messages, at, this.initRuntime());
  }
}

const modules = vanilla({
  loader: 'vite',
  heuristic,
  runtime,
  files: {
    include: 'src/**/*.ts',
    ignore: ['src/**/*.test.ts', 'src/api/**', 'src/main.ts', 'src/shell/language.ts', 'src/locales/**'],
  },
});

export default defineConfig({
  locales: ['en', 'de'],
  adapters: {
    components: svelte({ loader: 'svelte', heuristic, runtime, files: 'src/**/*.svelte' }),
    modules: {
      ...modules,
      transform: ({ content, filename, index, expr, matchUrl }) =>
        new ModuleTransformer(content, filename, index, heuristic, [], expr, modules.runtime, matchUrl).transform(),
    },
  },
});

// What lies in a drum and stays there, in words.
import type { Inside } from '../api/types';

export const INSIDE: Record<Inside, string> = {
  pillow: 'a pillow',
  blanket: 'a blanket or towel',
  foam: 'foam',
  ring: 'a loose ring',
  cotton: 'cotton balls',
  something: 'something else',
};

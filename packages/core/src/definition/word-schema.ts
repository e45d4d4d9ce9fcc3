import { z } from 'zod';

const WORD = /^[A-Za-z_]\w*$/;
/** A name that an expression can write down as it is. */
export const wordSchema = z.string().regex(WORD, { error: 'a name of letters, digits and _ is expected' });

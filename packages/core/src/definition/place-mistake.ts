import type { AppError } from '../errors/app-error.js';
import { refuseFile } from '../errors/refuse-file.js';
import { type PathKey, YamlSource } from './yaml-source.js';

/** The error for a mistake in a service file that was found beyond its meaning (a key that is none): `file-refused`, with line and column. `text`: valid YAML. */
export function placeMistake(text: string, path: readonly PathKey[], message: string): AppError {
  return refuseFile('the file', [new YamlSource(text).problem({ path }, message)]);
}

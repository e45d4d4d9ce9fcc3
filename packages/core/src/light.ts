// What a program that has to start quickly needs: nothing here imports a parser, a schema or an engine.

export { certificateFileOf } from './definition/certificate-file.js';
export { describeUpset } from './definition/describe-upset.js';
export { parseDuration, parseShare, renderDuration } from './definition/duration.js';
export { parseRate } from './definition/rate.js';
export { AppError } from './errors/app-error.js';
export { ERROR_TABLE } from './errors/error-table.js';

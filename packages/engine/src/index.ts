export type { MockContext } from './call/answer-call.js';
export type { CallLog } from './call/call-log.js';
export type { LiveService } from './call/live-service.js';
export type { MockListener } from './listener/mock-listener.js';
export { openMockListener } from './listener/mock-listener.js';

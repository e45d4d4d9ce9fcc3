export { createBerthDesk } from './berth-desk.js';
export { createManifestOffice } from './manifest-office.js';
export { createTideOffice } from './tide-office.js';

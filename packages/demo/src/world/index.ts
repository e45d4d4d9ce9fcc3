export { createBerthDesk } from './berth-desk.js';
export { createTideOffice } from './tide-office.js';

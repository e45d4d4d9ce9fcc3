/** What goes out of this machine beside relays: reading contracts, following feeds, trials. Without servers, so that commands load fast. */
export { type ReadContract, readContractFiles } from './contracts/read-contract.js';
export { type FeedSource, type FetchedFeed, fetchFeed } from './feeds/fetch-feed.js';
export { createTrialSender } from './trial/trial-sender.js';

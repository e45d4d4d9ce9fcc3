import refParser from '@apidevtools/json-schema-ref-parser';
import { draftContract } from '@upsetter/core';
import { makeLargeContract } from './large-contract.js';

// One measurement in a process of its own: a large contract drafted, or only read and resolved by a general-purpose library.
const text = makeLargeContract();
const startedMs = performance.now();
if (process.argv[2] === 'draft') draftContract(text, { service: null, port: null });
else await refParser.dereference(JSON.parse(text), { dereference: { circular: true } });
const ms = performance.now() - startedMs;
console.log(JSON.stringify({ ms, bytes: text.length, peakKb: process.resourceUsage().maxRSS }));

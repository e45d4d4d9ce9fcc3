/** The same answer as the plain server's, as a service file: a condition, and every value from the call. */
export const BENCH_SERVICE = `upsetter: 1
service: bench
listen: { port: 0 }
operations:
  readBerth:
    on: GET /berths/{berthId}
    cases:
      - case: north
        when: { query quay: North }
        answer:
          json:
            id: "\${call.path.berthId}"
            quay: "\${call.query.quay}"
            depth: 8.5
            note: "Berth \${call.path.berthId} is held"
            at: "\${now}"
`;

export const BENCH_PATH = '/berths/N7?quay=North';

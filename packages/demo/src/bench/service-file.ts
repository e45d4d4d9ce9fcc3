/** The same answer as the plain server's, as a service file: a condition, and every value from the call. */
export const BENCH_SERVICE = `upsetter: 1
service: bench
listen: { port: 0 }
state: { closed: {}, last: {} }
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
  arrive:
    on: POST /berths/{berthId}/arrivals
    cases:
      - case: closed
        when: { "state closed[\${call.path.berthId}]": { present: true } }
        answer: { status: 409, problem: { title: Closed } }
      - case: arrived
        when: { json $.vessel: { present: true } }
        answer:
          status: 201
          json:
            no: "\${next('arrival')}"
            vessel: "\${call.json.vessel}"
            before: "\${state.last[call.path.berthId]}"
            at: "\${now}"
        then: [{ set: { "last[\${call.path.berthId}]": "\${call.json.vessel}" } }]
`;

/** A call that is decided by state and changes it. */
export const STATEFUL = { path: '/berths/N7/arrivals', body: JSON.stringify({ vessel: 'Petrel', tonnes: 40 }) };

export const BENCH_PATH = '/berths/N7?quay=North';

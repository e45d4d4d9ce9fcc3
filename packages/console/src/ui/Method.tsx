import styled from 'styled-components';

/** A method, as plain small capitals: never colour-coded. */
const SmallCaps = styled.span`
  font-variant-caps: all-small-caps;
  letter-spacing: 0.04em;
  font-weight: 700;
`;

export function Method({ name }: { readonly name: string }) {
  return <SmallCaps>{name}</SmallCaps>;
}

/** `GET /berths/{berthId}`: the method in small capitals, the path in mono. */
export function Address({ on }: { readonly on: string }) {
  const space = on.indexOf(' ');
  return (
    <span>
      <Method name={on.slice(0, space)} /> <code>{on.slice(space + 1)}</code>
    </span>
  );
}

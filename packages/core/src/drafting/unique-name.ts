/** The name, or the name with the first number that makes it unique; it joins those taken. */
export function uniqueName(base: string, taken: Set<string>, separator = ' '): string {
  let name = base;
  for (let n = 2; taken.has(name); n++) name = `${base}${separator}${n}`;
  taken.add(name);
  return name;
}

/**
 * How deep objects and lists stand in one another in a text of JSON, without reading it: whatever looks
 * through what is read goes as deep, and runs out of room long before the text is large.
 * @example depthOf('{"a": [1, {}]}') // 3
 */
export function depthOf(json: string): number {
  let [depth, deepest, inString] = [0, 0, false];
  for (let i = 0; i < json.length; i += 1) {
    const mark = json.charCodeAt(i);
    if (inString) {
      if (mark === 0x5c) i += 1;
      else if (mark === 0x22) inString = false;
    } else if (mark === 0x22) inString = true;
    else if (mark === 0x7b || mark === 0x5b) deepest = Math.max(deepest, (depth += 1));
    else if (mark === 0x7d || mark === 0x5d) depth -= 1;
  }
  return deepest;
}

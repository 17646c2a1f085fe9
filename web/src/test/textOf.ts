import { cleanup, render } from '@testing-library/react';
import type { ReactElement } from 'react';

/** What a person reads of an element, what elements part parted by single spaces. */
export function read(element: Element): string {
  const walker = element.ownerDocument.createTreeWalker(element, NodeFilter.SHOW_TEXT);
  let text = '';
  while (walker.nextNode()) {
    const node = walker.currentNode;
    const goesOn = node.previousSibling?.nodeType === Node.TEXT_NODE;
    text += `${goesOn ? '' : ' '}${node.nodeValue ?? ''}`;
  }
  return text.replace(/\s+/g, ' ').trim();
}

/** Draws an element alone on the page and reads it. */
export function textOf(element: ReactElement): string {
  cleanup();
  return read(render(element).container);
}

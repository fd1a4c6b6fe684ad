import { describe, expect, test } from 'vitest';
import { firstElement, isDrawing, mayRun } from './markup-start.ts';

describe('what a text of markup begins with', () => {
  test.each([
    ['<svg>', true],
    ['\n <?xml version="1.0"?>\n<?xml-stylesheet href="a.css"?><!-- a --><svg xmlns="x">', true],
    ['<!DOCTYPE svg [<!ENTITY a "b">]>\n<s:svg>', true],
    [`<!--${' long'.repeat(5000)}--><svg/>`, true],
    ['<svgx>', false],
    ['<!-- <svg> -->', false],
    ['plain <svg>', false],
  ])('“%.60s” is a drawing: %s', (text, drawing) => {
    expect(isDrawing(text)).toBe(drawing);
  });

  test.each([
    ['<!-- x --><div>part</div>', true],
    ['<!DOCTYPE html><p>', true],
    ['<?xml version="1.0"?><kml xmlns:h="http://www.w3.org/1999/xhtml"><h:script/></kml>', true],
    ['<?php echo 1;', true],
    ['<% Response.Write %>', true],
    ['#!/bin/sh', true],
    ['<?xml version="1.0"?><kml xmlns="http://www.opengis.net/kml/2.2">', false],
    ['<division>', false],
    ['a < b, <div> and so on', false],
  ])('“%.60s” may run: %s', (text, runs) => {
    expect(mayRun(text)).toBe(runs);
  });

  test('is found at once in any text', () => {
    for (const part of ['<!---->', '<!DOCTYPE x [', '<?', '<!doctype ', '<!doctype >', ' \n'])
      expect(firstElement(part.repeat(200_000))).toBe(undefined);
  });
});

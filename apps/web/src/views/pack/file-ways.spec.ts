import type { RecipeFile } from '@pebble/core';
import { FILE_WAYS, putWay, wayOfFile } from './file-ways';

describe('ways of writing a file', () => {
  it('are read as they were put, whatever the file was before, and leave nothing behind', () => {
    for (const { value: before } of FILE_WAYS)
      for (const { value } of FILE_WAYS) {
        const file: RecipeFile = { order: 1, label: 'orm', depth: 8, channels: {} };
        putWay(file, before);
        putWay(file, value);
        expect(wayOfFile(file)).withContext(`${before} to ${value}`).toBe(value);
        if (value === 'png') expect(Object.keys(file).sort()).toEqual(['channels', 'depth', 'label', 'order']);
        if (!value.startsWith('ktx2')) expect(file.block).toBeUndefined();
      }
  });
  it('of a file that says nothing are PNG', () => expect(wayOfFile({ order: 1, label: 'a', depth: 8, channels: {} })).toBe('png'));
});

// The document room: the kinds of documents as plain JSON, and edits as data. A change is a JSON Patch (RFC 6902)
// with its inverse; collections are objects keyed by id with an order number, so that patches stay small and merge.
export * from './kinds';
export * from './blend';
export * from './master';
export * from './upgrade';
export * from './edits';
export * from './mentions';
export * from './stamps';

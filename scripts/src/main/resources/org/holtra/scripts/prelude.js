// Runs before a script, in the script's own world: what TS013 says of the input, and an output that JSON can carry.
// What it needs is taken aside first, so that a script which changes the built-in objects changes nothing here.
var exports = {};
var module = { exports: exports };
var console = (function () {
  const nothing = function () {};
  return { log: nothing, info: nothing, warn: nothing, error: nothing, debug: nothing };
})();
(function () {
  'use strict';
  const parse = JSON.parse;
  const stringify = JSON.stringify;
  const Time = Date;
  const finite = Number.isFinite;
  const number = Number;
  const largest = Number.MAX_SAFE_INTEGER;
  return function (f, text) {
    const input = parse(text);
    if (input.recvTime !== undefined) {
      input.recvTime = new Time(input.recvTime);
    }
    const notes = [];
    const output = f(input);
    if (output !== null && typeof output === 'object' && typeof output.then === 'function') {
      throw new TypeError('it returns a promise; a codec answers at once');
    }
    const both = [output === undefined ? null : output, notes];
    // Of its own, so that a toJSON that a script gives to all arrays is not asked.
    both.toJSON = notes.toJSON = undefined;
    return stringify(both, function (key, value) {
      if (typeof value === 'number' && !finite(value)) {
        notes[notes.length] = '`' + key + '` is ' + value + ', which is no value, and left out';
        return undefined;
      }
      if (typeof value === 'bigint') {
        return value <= largest && value >= -largest ? number(value) : '' + value;
      }
      return value;
    });
  };
})();

import * as Comlink from 'comlink';
import { fromWire, toWire, type WireError } from '@lurn/core';

const thrown = Comlink.transferHandlers.get('throw')!;

/** Errors cross the border of a worker whole: their code, their sentence and their details. */
Comlink.transferHandlers.set('throw', {
  canHandle: thrown.canHandle,
  serialize: ({ value }: { value: unknown }) => [toWire(value), []],
  deserialize: (wire: WireError): never => {
    throw fromWire(wire);
  },
} as Comlink.TransferHandler<{ value: unknown }, WireError>);

export { Comlink };

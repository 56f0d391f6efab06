import 'reflect-metadata';
import { faultOfQuad, type Quad } from '@lurn/core/geometry';
import { plainToInstance, Type, type ClassConstructor } from 'class-transformer';
import {
  Allow,
  getMetadataStorage,
  ValidateBy,
  ValidateIf,
  ValidateNested,
  validateSync,
  type ValidationError,
} from 'class-validator';

/** What values may be, as decorators, and the one way in which anything of unknown origin is checked. */

/** The first value out of place: where it is, and what is wrong with it. */
export interface Fault {
  /** Such as `document.trackers[0].name`. */
  readonly path: string;
  /** Such as `must be a text of 1 to 60 characters`. */
  readonly why: string;
}

const shown = (value: unknown) => JSON.stringify(value) ?? String(value);

/** A decorator from a test and what is said where it fails. */
function check(
  name: string,
  holds: (value: unknown) => boolean,
  why: (value: unknown) => string,
): PropertyDecorator {
  return ValidateBy({
    name,
    validator: { validate: holds, defaultMessage: (args) => why(args?.value) },
  });
}

type Range = readonly [number, number];

export function isWithin(value: unknown, [low, high]: Range): value is number {
  return typeof value === 'number' && Number.isFinite(value) && value >= low && value <= high;
}

/** A number from `low` to `high`. */
export function Within(range: Range): PropertyDecorator {
  return check(
    'within',
    (v) => isWithin(v, range),
    (v) => whyNotWithin(range, v),
  );
}

export function whyNotWithin([low, high]: Range, value: unknown): string {
  return `must be a number from ${low} to ${high}, not ${shown(value)}`;
}

/** A whole number from `low` to `high`. */
export function Whole(range: Range): PropertyDecorator {
  return check(
    'whole',
    (v) => isWithin(v, range) && Number.isInteger(v),
    (v) => (isWithin(v, range) ? `must be a whole number, not ${v}` : whyNotWithin(range, v)),
  );
}

/** Which frame something is on: a whole number; that it is one of the clip's is checked with the clip at hand. */
export const Frame = (): PropertyDecorator => Whole([0, Number.MAX_SAFE_INTEGER]);

/** Two whole numbers from `low` to `high`. */
export function WholePair(range: Range): PropertyDecorator {
  const fits = (v: unknown) => isWithin(v, range) && Number.isInteger(v);
  return check(
    'pair',
    (v) => Array.isArray(v) && v.length === 2 && v.every(fits),
    (v) => `must be two whole numbers of pixels from ${range[0]} to ${range[1]}, not ${shown(v)}`,
  );
}

/** True for a text that can be written as UTF-8: no half of a character stands alone in it. */
function isText(value: unknown, most: number): value is string {
  return typeof value === 'string' && value.length <= most && !/\p{Surrogate}/u.test(value);
}

/** A text of at least one character that is no blank. */
export function Text(most: number): PropertyDecorator {
  return check(
    'text',
    (v) => isText(v, most) && v.trim() !== '',
    () => `must be a text of 1 to ${most} characters`,
  );
}

/** A text that may be empty. */
export function Label(most: number): PropertyDecorator {
  return check(
    'label',
    (v) => isText(v, most),
    () => `must be a text of at most ${most} characters`,
  );
}

/** What things are called by: never a name that objects have by themselves, for things are looked up by it. */
function isId(value: unknown): value is string {
  return typeof value === 'string' && /^[\w][\w .:-]{0,39}$/.test(value) && !(value in Object.prototype);
}
const NO_ID = 'must be an id: 1 to 40 letters, digits, dots, colons or dashes';

/** The id of something. */
export const Id = (): PropertyDecorator => check('id', isId, () => NO_ID);

/** An id, or empty where there is none. */
export const IdOrEmpty = (): PropertyDecorator =>
  check(
    'id',
    (v) => v === '' || isId(v),
    () => NO_ID,
  );

/** A list of ids. */
export function Ids(most: number): PropertyDecorator {
  return check(
    'ids',
    (v) => Array.isArray(v) && v.length <= most && v.every(isId),
    () => `must be at most ${most} ids, each of 1 to 40 letters, digits, dots, colons or dashes`,
  );
}

/** True for a SHA-256 in hexadecimal digits, by which files are kept. */
export function isHash(value: unknown): value is string {
  return typeof value === 'string' && /^[0-9a-f]{64}$/.test(value);
}

export const Hash = (): PropertyDecorator =>
  check('hash', isHash, () => 'must be a SHA-256 in 64 hexadecimal digits');

export function OneOf(choices: readonly unknown[]): PropertyDecorator {
  return check(
    'oneOf',
    (v) => choices.includes(v),
    (v) => `must be one of ${choices.join(', ')}, not ${shown(v)}`,
  );
}

export function Flag(): PropertyDecorator {
  return check(
    'flag',
    (v) => typeof v === 'boolean',
    () => 'must be true or false',
  );
}

/** An object of any kind, which is looked into elsewhere. */
export function AnyObject(): PropertyDecorator {
  return check(
    'object',
    (v) => typeof v === 'object' && v !== null && !Array.isArray(v),
    () => 'is not an object',
  );
}

export function Colour(): PropertyDecorator {
  return check(
    'colour',
    (v) => typeof v === 'string' && /^#[0-9a-f]{6}$/i.test(v),
    () => 'must be a colour such as #1a2b3c',
  );
}

/** A whole and even number: H.264 with 4:2:0 has no other sizes. */
export function Even(range: Range): PropertyDecorator {
  return check(
    'even',
    (v) => isWithin(v, range) && (v as number) % 2 === 0,
    (v) => (isWithin(v, range) ? `must be even, not ${v}` : whyNotWithin(range, v)),
  );
}

/** Lets null pass, or what the other check of the same value allows. */
export function OrNull(...checks: PropertyDecorator[]): PropertyDecorator {
  return (target, key) => {
    for (const c of checks) c(target, key);
    NULLABLE.set(target.constructor, new Set([...(NULLABLE.get(target.constructor) ?? []), String(key)]));
  };
}
const NULLABLE = new Map<unknown, Set<string>>();

/** As the field of this name in another class is checked, or one that is called otherwise there. */
export function As(made: ClassConstructor<object>, name?: string): PropertyDecorator {
  return (target, key) => {
    const storage = getMetadataStorage();
    const own = name ?? String(key);
    for (const known of storage.getTargetValidationMetadatas(made, '', false, false))
      if (known.propertyName === own)
        storage.addValidationMetadata({ ...known, target: target.constructor, propertyName: String(key) });
  };
}

/** May be left out; null is a value like any other. */
export function Optional(): PropertyDecorator {
  return ValidateIf((_, value) => value !== undefined);
}

const isNumbers = (v: unknown, nullToo: boolean) =>
  Array.isArray(v) && v.every((n) => Number.isFinite(n) || (nullToo && n === null));

/** A list of numbers. */
export function Numbers(): PropertyDecorator {
  return check(
    'numbers',
    (v) => isNumbers(v, false),
    () => 'must be a list of numbers',
  );
}

/** Which frames, each once and in their order. */
export function Frames(most: number): PropertyDecorator {
  const fits = (v: unknown, i: number, all: unknown[]) =>
    Number.isInteger(v) && (v as number) >= 0 && (i === 0 || (v as number) > (all[i - 1] as number));
  return check(
    'frames',
    (v) => Array.isArray(v) && v.length <= most && v.every(fits),
    () => `must be up to ${most} frames in their order, each once`,
  );
}

/** Corners of a shape: three to `most` pairs of numbers. */
export function Corners(most: number): PropertyDecorator {
  const fits = (v: unknown) => isNumbers(v, false) && (v as number[]).length === 2;
  return check(
    'corners',
    (v) => Array.isArray(v) && v.length >= 3 && v.length <= most && v.every(fits),
    () => `must be 3 to ${most} corners, each [x, y]`,
  );
}

/** Triangles and quads between numbered points, of which there are `most` at the most. */
export function Faces(most: number): PropertyDecorator {
  const index = (v: unknown) => Number.isInteger(v) && (v as number) >= 0 && (v as number) < most;
  const fits = (v: unknown) =>
    Array.isArray(v) && (v.length === 3 || v.length === 4) && v.every(index) && new Set(v).size === v.length;
  return check(
    'faces',
    (v) => Array.isArray(v) && v.length >= 1 && v.length <= 4 * most && v.every(fits),
    () => 'must be triangles and quads, each of three or four different numbers of points',
  );
}

/** Four corners of a rectangle seen on a plane, clockwise from the top left. */
export function FourCorners(): PropertyDecorator {
  const fits = (v: unknown) => isNumbers(v, false) && (v as number[]).length === 2;
  const four = (v: unknown): v is [number, number][] => Array.isArray(v) && v.length === 4 && v.every(fits);
  const fault = (v: unknown) =>
    four(v)
      ? faultOfQuad(v.map(([x, y]) => ({ x, y })) as unknown as Quad)
      : 'must be four corners, each [x, y]';
  return check(
    'fourCorners',
    (v) => fault(v) === null,
    (v) => fault(v) ?? '',
  );
}

/** Places of a stroke: x, y and pressure, 0 to 1. */
export function Places(most: number): PropertyDecorator {
  const fits = (v: unknown) =>
    isNumbers(v, false) && (v as number[]).length === 3 && isWithin((v as number[])[2], [0, 1]);
  return check(
    'places',
    (v) => Array.isArray(v) && v.length >= 1 && v.length <= most && v.every(fits),
    () => `must be 1 to ${most} places, each [x, y, pressure from 0 to 1]`,
  );
}

/** Lists of numbers, or of null where one is missing, by name. */
export function NumbersByName(): PropertyDecorator {
  return check(
    'numbersByName',
    (v) => typeof v === 'object' && v !== null && Object.values(v).every((list) => isNumbers(list, true)),
    () => 'must be lists of numbers by name',
  );
}

/** Objects of a class by any name. */
export function RecordOf(made: () => ClassConstructor<object>, name: string): PropertyDecorator {
  const fault = (value: unknown): Fault | null => {
    if (typeof value !== 'object' || value === null || Array.isArray(value))
      return { path: name, why: 'is not an object' };
    for (const [key, entry] of Object.entries(value)) {
      if (!isId(key)) return { path: `${name}.${key}`, why: `has a name that is none: it ${NO_ID}` };
      const result = checked(made(), entry, `${name}.${key}`);
      if ('fault' in result) return result.fault;
    }
    return null;
  };
  return together(
    // Its entries are no instances of anything, and keep the names they have.
    Type(() => Object),
    Allow(),
    check(
      'record',
      (v) => fault(v) === null,
      (v) => {
        const { path, why } = fault(v) ?? { path: name, why: '' };
        return `has ${path}: ${why}`;
      },
    ),
  );
}

/** An object of a class, checked by its own decorators. */
export function Of(made: () => ClassConstructor<object>): PropertyDecorator {
  return together(
    Type(made),
    ValidateNested(),
    check(
      'object',
      (v) => typeof v === 'object' && v !== null && !Array.isArray(v),
      () => 'is not an object',
    ),
  );
}

/** A list of objects of a class. */
export function ListOf(made: () => ClassConstructor<object>, most: number): PropertyDecorator {
  return together(Type(made), ValidateNested({ each: true }), Objects(), List(most));
}

/** Every entry is an object: a list in its place would pass for one that has nothing to check. */
function Objects(): PropertyDecorator {
  const other = (v: unknown) =>
    Array.isArray(v) ? v.findIndex((e) => typeof e !== 'object' || e === null || Array.isArray(e)) : -1;
  return check(
    'objects',
    (v) => other(v) < 0,
    (v) => `has an entry that is not an object: number ${other(v)}`,
  );
}

/** A list of objects of several classes, told apart by `kind`. */
export function ListOfKinds(
  kinds: () => Readonly<Record<string, ClassConstructor<object>>>,
  most: number,
): PropertyDecorator {
  return (target, key) => {
    const subTypes = Object.entries(kinds()).map(([name, value]) => ({ name, value }));
    together(
      Type(() => Object, { discriminator: { property: 'kind', subTypes }, keepDiscriminatorProperty: true }),
      check(
        'kinds',
        (v) =>
          !Array.isArray(v) ||
          v.every((item) => Object.hasOwn(kinds(), String((item as { kind?: unknown })?.kind))),
        () => `has an entry whose kind is not one of ${Object.keys(kinds()).join(', ')}`,
      ),
      ValidateNested({ each: true }),
      List(most),
    )(target, key);
  };
}

/** A list of anything, no longer than so many. */
export function List(most: number): PropertyDecorator {
  return check(
    'list',
    (v) => Array.isArray(v) && v.length <= most,
    (v) => (Array.isArray(v) ? `has more than ${most} entries` : 'is not a list'),
  );
}

function together(...decorators: PropertyDecorator[]): PropertyDecorator {
  return (target, key) => decorators.forEach((d) => d(target, key));
}

/**
 * A value of unknown origin as an object of a class, or the first thing that is wrong with it. Keys that the class does
 * not know are faults.
 *
 * @param where  what the path begins with
 */
export function checked<T extends object>(
  made: ClassConstructor<T>,
  value: unknown,
  where: string,
): { readonly value: T } | { readonly fault: Fault } {
  if (typeof value !== 'object' || value === null || Array.isArray(value))
    return { fault: { path: where, why: 'is not an object' } };
  const instance = plainToInstance(made, value);
  const faults = validateSync(instance, {
    whitelist: true,
    forbidNonWhitelisted: true,
    forbidUnknownValues: true,
    validationError: { target: true, value: false },
  });
  for (const fault of faults) {
    const first = firstFault(fault, where);
    if (first) return { fault: first };
  }
  return { value: instance };
}

/** True where a class, or one that it is made of, lets a property be null. */
function mayBeNull(made: object | null, property: string): boolean {
  for (let of = made; of; of = Object.getPrototypeOf(of) as object | null)
    if (NULLABLE.get(of)?.has(property)) return true;
  return false;
}

function firstFault(error: ValidationError, where: string): Fault | null {
  const path = /^\d+$/.test(error.property) ? `${where}[${error.property}]` : `${where}.${error.property}`;
  const value = (error.target as Record<string, unknown> | undefined)?.[error.property];
  if (value === null && error.target && mayBeNull(error.target.constructor, error.property)) return null;
  const own = Object.entries(error.constraints ?? {});
  const [name, why] = own.find(([n]) => n !== 'nestedValidation') ?? own[0] ?? [null, ''];
  if (name === 'whitelistValidation') return { path, why: 'is not known' };
  if (name === 'nestedValidation' || name === 'unknownValue') return { path, why: 'is not an object' };
  if (name !== null) return { path, why };
  for (const child of error.children ?? []) {
    const found = firstFault(child, path);
    if (found) return found;
  }
  return null;
}

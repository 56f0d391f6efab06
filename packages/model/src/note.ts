import { Frame, Id, Text } from './checks.js';
import { LIMITS } from './limits.js';

/** What the editor wrote about a frame, or a stretch of them. */
export class Note {
  @Id()
  readonly id!: string;
  /** First and last frame, both included. */
  @Frame()
  readonly from!: number;
  @Frame()
  readonly to!: number;
  @Text(LIMITS.note)
  readonly text!: string;
}

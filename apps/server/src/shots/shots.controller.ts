import { Body, Controller, Get, Param, Put } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import type { TrackColumns } from '@lurn/core';
import type { SavedShot, ShotDocument } from '@lurn/model';
import { Type } from 'class-transformer';
import {
  IsArray,
  IsInt,
  IsNumber,
  IsObject,
  Matches,
  Min,
  registerDecorator,
  validateSync,
  IsOptional,
  ValidateIf,
  type ValidationArguments,
} from 'class-validator';
import { plainToInstance } from 'class-transformer';
import { Shots } from './shots.js';

class TrackBody implements TrackColumns {
  @IsInt()
  @Min(0)
  start!: number;

  @IsArray()
  @ValidateIf((_, v) => !isNumbers(v, true))
  @IsNumber({}, { each: true })
  x!: (number | null)[];

  @IsArray()
  @ValidateIf((_, v) => !isNumbers(v, true))
  @IsNumber({}, { each: true })
  y!: (number | null)[];

  @IsArray()
  @ValidateIf((_, v) => !isNumbers(v, false))
  @IsNumber({}, { each: true })
  confidence!: number[];

  @Matches(/^[-ptcb]*$/)
  state!: string;

  @IsOptional()
  @IsArray()
  @ValidateIf((_, v) => !isNumbers(v, false))
  @IsNumber({}, { each: true })
  mismatch?: number[];
}

/** A quick look that spares class-validator a call a number; only odd lists get its full answer. */
function isNumbers(value: unknown, nullToo: boolean): boolean {
  return Array.isArray(value) && value.every((v) => Number.isFinite(v) || (nullToo && v === null));
}

/** Every value of an object is a valid track. */
function IsTracks() {
  return (target: object, propertyName: string) =>
    registerDecorator({
      name: 'isTracks',
      target: target.constructor,
      propertyName,
      validator: {
        validate: (value: unknown) => firstFault(value) === null,
        defaultMessage: (args?: ValidationArguments) => `tracks: ${firstFault(args?.value) ?? ''}`,
      },
    });
}

function firstFault(value: unknown): string | null {
  if (typeof value !== 'object' || value === null) return 'must be an object of tracks by spot';
  for (const [id, track] of Object.entries(value)) {
    if (typeof track !== 'object' || track === null) return `"${id}" is not a track`;
    const [fault] = validateSync(plainToInstance(TrackBody, track), {
      whitelist: true,
      forbidNonWhitelisted: true,
    });
    if (fault) return `"${id}": ${Object.values(fault.constraints ?? {})[0] ?? fault.property}`;
  }
  return null;
}

class SaveShotBody {
  @IsInt()
  @Min(0)
  revision!: number;

  /** Checked as a whole against the clip by the model. */
  @IsObject()
  @Type(() => Object)
  document!: ShotDocument;

  @IsTracks()
  @Type(() => Object)
  tracks!: Record<string, TrackColumns>;
}

@ApiTags('shots')
@Controller('api/clips/:id/shot')
export class ShotsController {
  constructor(private readonly shots: Shots) {}

  @Get()
  @ApiOperation({ summary: 'The shot as it was last saved, or a new one' })
  load(@Param('id') id: string): Promise<SavedShot> {
    return this.shots.load(id);
  }

  @Put()
  @ApiOperation({
    summary: 'Save the document and the tracks that have changed; 409 when it was changed elsewhere',
  })
  save(@Param('id') id: string, @Body() body: SaveShotBody): Promise<{ revision: number }> {
    return this.shots.save(id, body);
  }
}

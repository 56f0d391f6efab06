import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { Controller, Get, Param, Put, Req, Res } from '@nestjs/common';
import { ApiBody, ApiConsumes, ApiOkResponse, ApiOperation, ApiTags } from '@nestjs/swagger';
import { LurnError } from '@lurn/core';
import { SHOT_BODY_TYPE } from '@lurn/model';
import type { Request, Response } from 'express';
import { Shots } from './shots.js';

@ApiTags('shots')
@Controller('api/clips/:id/shot')
export class ShotsController {
  constructor(private readonly shots: Shots) {}

  @Get()
  @ApiOperation({ summary: 'The shot as it was last saved, or a new one' })
  @ApiOkResponse({
    description: `{ revision, document, measured }: what was measured by the trackers’ ids. Packed as ${SHOT_BODY_TYPE} where that is asked for.`,
  })
  async load(@Param('id') id: string, @Req() request: Request, @Res() response: Response): Promise<void> {
    const packed = request.headers.accept === SHOT_BODY_TYPE;
    const pieces = packed ? await this.shots.packed(id) : await this.shots.asJson(id);
    response.setHeader('Content-Type', packed ? SHOT_BODY_TYPE : 'application/json; charset=utf-8');
    response.setHeader('Vary', 'Accept');
    // As fast as it is taken, so that other requests have their turn in between.
    await pipeline(Readable.from(pieces), response).catch((error: unknown) => {
      if (!response.destroyed) throw error; // whoever asked is gone
    });
  }

  @Put()
  @ApiOperation({
    summary: 'Save the document and what was measured anew; 409 when it was changed elsewhere',
  })
  @ApiConsumes('application/json', SHOT_BODY_TYPE)
  @ApiBody({ schema: { type: 'object', required: ['revision', 'document', 'measured'] } })
  async save(@Param('id') id: string, @Req() request: Request): Promise<{ revision: number }> {
    // The bytes as they came: they are read and checked off this thread.
    const body: unknown = request.body;
    if (!Buffer.isBuffer(body)) throw new LurnError('bad-request', 'The body is not JSON.');
    return this.shots.save(id, body, request.headers['content-type'] === SHOT_BODY_TYPE);
  }
}

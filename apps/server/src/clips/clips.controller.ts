import { join } from 'node:path';
import {
  Body,
  Controller,
  Delete,
  Get,
  HttpCode,
  Param,
  ParseIntPipe,
  Patch,
  Post,
  Query,
  Res,
} from '@nestjs/common';
import { ApiOperation, ApiQuery, ApiTags } from '@nestjs/swagger';
import { LurnError } from '@lurn/core';
import { RenameClip, type ClipSummary, type RenderSummary } from '@lurn/model';
import type { Response } from 'express';
import { notFound } from '../common/errors.js';
import { sendFile } from '../common/send-file.js';
import { Settings } from '../common/settings.js';
import { Renders } from '../renders/renders.js';
import { Shots, type Work } from '../shots/shots.js';
import { Clips, type ClipRow } from './clips.js';
import { Reading } from './reading.js';

/** Clips of a page. */
const LARGEST_PAGE = 1000;
const KEPT = { 'Cache-Control': 'private, max-age=3600' };

@ApiTags('clips')
@Controller('api/clips')
export class ClipsController {
  constructor(
    private readonly clips: Clips,
    private readonly reading: Reading,
    private readonly shots: Shots,
    private readonly renders: Renders,
    private readonly settings: Settings,
  ) {}

  @Get()
  @ApiOperation({
    summary: 'Clips, newest first: all of them, or a page of so many after the one with an id',
  })
  @ApiQuery({ name: 'limit', required: false, type: Number })
  @ApiQuery({ name: 'after', required: false, type: String })
  async list(
    @Query('limit', new ParseIntPipe({ optional: true })) limit?: number,
    @Query('after') after?: string,
  ): Promise<ClipSummary[]> {
    if (limit !== undefined && !(limit >= 1 && limit <= LARGEST_PAGE))
      throw new LurnError('bad-request', `A page has 1 to ${LARGEST_PAGE} clips, not ${limit}.`);
    return this.summaries(await this.clips.list(limit, after));
  }

  @Get(':id')
  @ApiOperation({ summary: 'One clip' })
  async one(@Param('id') id: string): Promise<ClipSummary> {
    return (await this.summaries([await this.clips.get(id)]))[0];
  }

  @Patch(':id')
  @ApiOperation({ summary: 'Rename a clip' })
  async rename(@Param('id') id: string, @Body() { name }: RenameClip): Promise<ClipSummary> {
    await this.clips.rename(id, name);
    return this.one(id);
  }

  @Delete(':id')
  @HttpCode(204)
  @ApiOperation({ summary: 'Delete a clip; it can be restored for seven days' })
  async remove(@Param('id') id: string): Promise<void> {
    await this.clips.remove(id);
  }

  @Post(':id/restore')
  @HttpCode(200)
  @ApiOperation({ summary: 'Take a deletion back' })
  async restore(@Param('id') id: string): Promise<ClipSummary> {
    await this.clips.restore(id);
    return this.one(id);
  }

  @Post(':id/first')
  @HttpCode(204)
  @ApiOperation({ summary: 'Read it next, where it waits to be read' })
  async first(@Param('id') id: string): Promise<void> {
    await this.reading.first((await this.clips.get(id)).id);
  }

  @Get(':id/times')
  @ApiOperation({ summary: 'The frame index: seconds of each frame from frame 0' })
  async times(@Param('id') id: string): Promise<{ times: number[] }> {
    return { times: [...(await this.clips.known(id)).times] };
  }

  @Get(':id/frames/:frame')
  @ApiOperation({ summary: 'What is known of one frame' })
  async frame(
    @Param('id') id: string,
    @Param('frame', ParseIntPipe) frame: number,
  ): Promise<{ frame: number; time: number }> {
    const { row, times } = await this.clips.known(id);
    if (frame < 0 || frame >= times.length) {
      throw new LurnError(
        'no-such-frame',
        `"${row.name}" has no frame ${frame}: its frames are 0 to ${times.length - 1}.`,
      );
    }
    return { frame, time: times[frame] };
  }

  @Get(':id/file')
  @ApiOperation({ summary: 'The file that the page plays (ranges are served)' })
  async file(@Param('id') id: string, @Res() response: Response): Promise<void> {
    const { path, name } = await this.clips.playable(id);
    await sendFile(response, path, name, KEPT);
  }

  @Get(':id/copy/:part')
  @ApiOperation({ summary: 'A part of the copy; 425 while it is not there yet, and it is made next' })
  async copyPart(
    @Param('id') id: string,
    @Param('part', ParseIntPipe) part: number,
    @Res() response: Response,
  ): Promise<void> {
    const { path, name } = await this.reading.part(id, 'copy', part);
    await sendFile(response, path, name, KEPT);
  }

  @Get(':id/reduced/:part')
  @ApiOperation({ summary: 'A part of the reduced copy; 425 while it is not there yet, and it is made next' })
  async reducedPart(
    @Param('id') id: string,
    @Param('part', ParseIntPipe) part: number,
    @Res() response: Response,
  ): Promise<void> {
    const { path, name } = await this.reading.part(id, 'reduced', part);
    await sendFile(response, path, name, KEPT);
  }

  @Get(':id/film/:row')
  @ApiOperation({ summary: 'A row of the film strip, a JPEG; 425 while it is not there yet' })
  async film(
    @Param('id') id: string,
    @Param('row', ParseIntPipe) row: number,
    @Res() response: Response,
  ): Promise<void> {
    const { path, name } = await this.reading.filmRow(id, row);
    await sendFile(response, path, name, KEPT);
  }

  @Get(':id/scene')
  @ApiOperation({
    summary: 'What is known of the whole picture: movers, their motions, tracks, cuts, packed',
  })
  async scene(@Param('id') id: string, @Res() response: Response): Promise<void> {
    const row = await this.clips.get(id);
    const path = await this.clips.sceneFile(row);
    if (!path) throw notFound('scene', row.name);
    await sendFile(response, path, row.name, KEPT);
  }

  @Get(':id/waveform')
  @ApiOperation({ summary: 'The loudness of the sound, a byte a fiftieth of a second from frame 0 on' })
  async waveform(@Param('id') id: string, @Res() response: Response): Promise<void> {
    const { name } = await this.clips.known(id);
    await sendFile(response, join(this.settings.clipFolder(id), 'wave.bin'), name, KEPT);
  }

  @Get(':id/sound')
  @ApiOperation({ summary: 'The sound alone, frame 0 at its beginning (ranges are served)' })
  async sound(@Param('id') id: string, @Res() response: Response): Promise<void> {
    const { path, name } = await this.clips.sound(id);
    await sendFile(response, path, name, KEPT);
  }

  @Get(':id/thumbnail')
  @ApiOperation({ summary: 'A JPEG of one frame' })
  async thumbnail(@Param('id') id: string, @Res() response: Response): Promise<void> {
    const row = await this.clips.get(id);
    const path = join(this.settings.clipFolder(id), 'thumb.jpg');
    await sendFile(response, path, row.name, KEPT);
  }

  private async summaries(rows: readonly ClipRow[]): Promise<ClipSummary[]> {
    const ids = rows.map((row) => row.id);
    const [work, renders] = await Promise.all([this.shots.work(ids), this.renders.byClip(ids)]);
    return rows.map((row) => this.summary(row, work, renders));
  }

  private summary(
    row: ClipRow,
    work: ReadonlyMap<string, Work>,
    renders: ReadonlyMap<string, readonly RenderSummary[]>,
  ): ClipSummary {
    const { id, name, status, error, bytes, createdAt, info, shakiness, usesCopy, made } = row;
    return {
      ...{ id, name, status, error, bytes, createdAt, info, shakiness, usesCopy, made },
      ...this.reading.progress(row),
      work: work.get(id) ?? { trackers: {}, trackedFrames: 0 },
      renders: renders.get(id) ?? [],
    };
  }
}

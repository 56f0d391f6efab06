import { Body, Controller, Get, Param, Post, Res } from '@nestjs/common';
import { ApiOkResponse, ApiOperation, ApiTags } from '@nestjs/swagger';
import { toWire } from '@lurn/core';
import { packRaster } from '@lurn/core/formats';
import { lettersMissing } from '@lurn/engine';
import { AskAssetRaster, AskFilmRaster, AskMask, AskTextRaster, type TakenAsset } from '@lurn/model';
import type { Response } from 'express';
import { notFound } from '../common/errors.js';
import { Clips } from '../clips/clips.js';
import { Assets } from './assets.js';
import { Masks } from './masks.js';

@ApiTags('assets')
@Controller('api/assets')
export class AssetsController {
  constructor(
    private readonly assets: Assets,
    private readonly clips: Clips,
    private readonly masks: Masks,
  ) {}

  @Get(':hash')
  @ApiOperation({ summary: 'The file that a layer shows, as it was brought in' })
  async file(@Param('hash') hash: string, @Res() response: Response): Promise<void> {
    const path = await this.assets.path(hash);
    if (!path) throw notFound('asset', hash);
    // Only ever a file to be kept: a drawing's scripts are not to run here.
    response.setHeader('Content-Type', 'application/octet-stream');
    response.setHeader('Content-Disposition', 'attachment');
    response.sendFile(path);
  }

  @Post('raster')
  @ApiOperation({ summary: 'A graphic as the samples that preview and render draw' })
  @ApiOkResponse({
    description: 'Six 32-bit numbers (size, and what of it the corners stand for), then RGBA.',
  })
  async asset(@Body() ask: AskAssetRaster, @Res() response: Response): Promise<void> {
    send(response, packRaster(await this.assets.raster({ kind: 'asset', ...ask })));
  }

  @Post('film')
  @ApiOperation({ summary: 'A frame of a film as the samples that preview and render draw' })
  @ApiOkResponse({ description: 'As of a graphic.' })
  async film(@Body() ask: AskFilmRaster, @Res() response: Response): Promise<void> {
    send(response, packRaster(await this.assets.filmFrame(ask)));
  }

  @Post('from-clip/:id')
  @ApiOperation({ summary: 'Takes the file of a clip over, for layers of other shots' })
  async fromClip(@Param('id') id: string): Promise<TakenAsset> {
    const { path, row } = this.clips.readyRow(await this.clips.get(id));
    await this.clips.present(path, row.name);
    return this.assets.copy(path, row.name);
  }

  @Post('mask-of/:id')
  @ApiOperation({ summary: 'A film of the masks of something that moves in a clip' })
  @ApiOkResponse({
    description:
      'Lines of JSON: `{ done }` in frames as it goes, then the film, or an error. Leaving stops it.',
  })
  async mask(@Param('id') id: string, @Body() ask: AskMask, @Res() response: Response): Promise<void> {
    const gone = new AbortController();
    response.on('close', () => gone.abort());
    response.setHeader('Content-Type', 'application/x-ndjson');
    response.setHeader('Cache-Control', 'no-store');
    const tell = (line: object) => response.write(`${JSON.stringify(line)}\n`);
    const made = this.masks.make(id, ask, gone.signal, (done) => tell({ done }));
    tell(await made.catch((error: unknown) => ({ error: toWire(error) })));
    response.end();
  }

  @Post('text')
  @ApiOperation({ summary: 'A text as the samples that preview and render draw' })
  @ApiOkResponse({ description: 'As of a graphic; X-Letters-Missing names letters that the font lacks.' })
  async text(@Body() ask: AskTextRaster, @Res() response: Response): Promise<void> {
    const raster = await this.assets.raster({ kind: 'text', ...ask });
    const lacking = lettersMissing(ask.text, ask.style.font).join('');
    response.setHeader('X-Letters-Missing', encodeURIComponent(lacking));
    send(response, packRaster(raster));
  }
}

function send(response: Response, bytes: Uint8Array): void {
  response.status(200);
  response.setHeader('Content-Type', 'application/octet-stream');
  response.end(Buffer.from(bytes.buffer, bytes.byteOffset, bytes.length));
}

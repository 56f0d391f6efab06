import { Body, Controller, Delete, Get, HttpCode, Param, Post, Query, Res } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import { OrderOfRenders, OrderRender, type RenderSummary } from '@lurn/model';
import type { Response } from 'express';
import { sendFile } from '../common/send-file.js';
import { Renders } from './renders.js';

@ApiTags('renders')
@Controller('api')
export class RendersController {
  constructor(private readonly renders: Renders) {}

  @Post('clips/:id/renders')
  @ApiOperation({ summary: 'Queue a render of the shot as it is saved' })
  order(@Param('id') id: string, @Body() { revision, crf, delivery }: OrderRender): Promise<RenderSummary> {
    return this.renders.order(id, revision, crf, delivery);
  }

  @Post('renders/:id/stop')
  @HttpCode(200)
  @ApiOperation({ summary: 'Stop a render that waits or runs' })
  stop(@Param('id') id: string): Promise<RenderSummary> {
    return this.renders.stop(id);
  }

  @Post('renders/:id/go-on')
  @HttpCode(200)
  @ApiOperation({ summary: 'Go on with a render that was stopped or has failed, where it was' })
  goOn(@Param('id') id: string): Promise<RenderSummary> {
    return this.renders.goOn(id);
  }

  @Post('renders/order')
  @HttpCode(204)
  @ApiOperation({ summary: 'Put renders that wait into another order' })
  async arrange(@Body() { ids }: OrderOfRenders): Promise<void> {
    await this.renders.arrange(ids);
  }

  @Get('renders/:id/last')
  @ApiOperation({ summary: 'The last picture that was made, as a JPEG; 204 while there is none' })
  async last(@Param('id') id: string, @Res() response: Response): Promise<void> {
    const picture = await this.renders.lastPicture(id);
    response.set('Cache-Control', 'no-store');
    if (picture) response.type('jpeg').send(picture);
    else response.status(204).end();
  }

  @Delete('renders/:id')
  @HttpCode(204)
  @ApiOperation({ summary: 'Remove a render and its file' })
  async remove(@Param('id') id: string): Promise<void> {
    await this.renders.remove(id);
  }

  @Get('renders/:id/file')
  @ApiOperation({ summary: 'The finished file (ranges are served); ?download=1 to save it' })
  async file(
    @Param('id') id: string,
    @Query('download') download: string | undefined,
    @Res() response: Response,
  ): Promise<void> {
    const { path, name } = await this.renders.file(id);
    if (download) response.attachment(name);
    await sendFile(response, path, name);
  }
}

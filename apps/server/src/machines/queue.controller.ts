import { Controller, Get } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import type { QueueSummary } from '@lurn/model';
import { Renders } from '../renders/renders.js';
import { Machines } from './machines.js';
import { Workers } from './workers.js';

@ApiTags('renders')
@Controller('api/queue')
export class QueueController {
  constructor(
    private readonly renders: Renders,
    private readonly machines: Machines,
    private readonly workers: Workers,
  ) {}

  @Get()
  @ApiOperation({ summary: 'What is rendered and what waits, of all clips, and by which machines' })
  async queue(): Promise<QueueSummary> {
    const { queue } = this.machines;
    return {
      renders: await this.renders.queued(),
      shared: queue !== null,
      away: queue?.away ?? false,
      workers: queue ? this.workers.summaries() : [],
    };
  }
}

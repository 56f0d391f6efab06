import { Controller, Get } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import { formatsAtHand } from '@lurn/engine';
import type { FormatSummary } from '@lurn/model';

@ApiTags('formats')
@Controller('api/formats')
export class FormatsController {
  @Get()
  @ApiOperation({ summary: 'The kinds of file that can be written' })
  async list(): Promise<FormatSummary[]> {
    const { offered } = await formatsAtHand();
    return offered.map(({ id, name, use, extension, depths, alpha, sound, plays, settings }) => ({
      ...{ id, name, use, extension, depths, alpha, plays, settings },
      sound: sound && { keeps: sound.keeps, anew: sound.anew.as },
    }));
  }
}

import { Controller, Get } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import { FORMATS } from '@lurn/engine';
import type { FormatSummary } from '@lurn/model';

@ApiTags('formats')
@Controller('api/formats')
export class FormatsController {
  @Get()
  @ApiOperation({ summary: 'The kinds of file that can be written' })
  list(): FormatSummary[] {
    return FORMATS.map(({ id, name, extension, depths, alpha, sound, settings }) => ({
      ...{ id, name, extension, depths, alpha, sound, settings },
    }));
  }
}

import { Controller, Injectable, Sse, type MessageEvent } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import type { ServerEvent } from '@lurn/model';
import { interval, map, merge, Subject, type Observable } from 'rxjs';

/** What happens on the server, told to every open page. */
@Injectable()
export class Events {
  private readonly subject = new Subject<ServerEvent>();

  emit(event: ServerEvent): void {
    this.subject.next(event);
  }

  stream(): Observable<MessageEvent> {
    const beat = interval(20_000).pipe(map(() => ({ type: 'beat', data: '' })));
    return merge(this.subject.pipe(map((data): MessageEvent => ({ data }))), beat);
  }
}

@ApiTags('events')
@Controller('api/events')
export class EventsController {
  constructor(private readonly events: Events) {}

  @Sse()
  @ApiOperation({ summary: 'Server-sent events: clips, renders and shots that have changed' })
  stream(): Observable<MessageEvent> {
    return this.events.stream();
  }
}

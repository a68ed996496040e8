import type { ElementRef } from '@angular/core';
import { ChangeDetectionStrategy, Component, DestroyRef, effect, inject, input, output, signal, untracked, viewChild } from '@angular/core';
import { DomSanitizer } from '@angular/platform-browser';
import type { FromStandIn, OnDevice, StageLook, ToStandIn } from '@pebble/stage';

/** The target stand-in within this page. */
@Component({
  selector: 'pb-target-pane',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <iframe #frame [src]="address" title="Target stand-in" tabindex="-1"></iframe>
    @if (status(); as text) {
      <p class="none" role="status">{{ text }}</p>
    }
  `,
  styles: `
    :host {
      display: block;
      position: relative;
      overflow: hidden;
    }
    iframe {
      position: absolute;
      width: 100%;
      height: 100%;
      border: 0;
    }
    .none {
      position: absolute;
      left: 10px;
      top: 40px;
      padding: 2px 10px;
      border-radius: 12px;
      background: var(--veil);
      max-width: calc(100% - 20px);
    }
  `,
})
export class TargetPane {
  readonly manifest = input.required<string | null>();
  readonly device = input.required<string>();
  readonly asset = input.required<string | null>();
  readonly look = input<{ look: StageLook; sky: string } | null>(null);
  readonly loaded = output<OnDevice | null>();
  readonly address = inject(DomSanitizer).bypassSecurityTrustResourceUrl('/target/');
  private readonly frame = viewChild.required<ElementRef<HTMLIFrameElement>>('frame');
  private readonly ready = signal(false);
  readonly status = signal<string | null>(null);
  private next = 0;
  private readonly waiting = new Map<number, (image: ImageData) => void>();

  constructor() {
    const hear = ({ data, origin, source }: MessageEvent<FromStandIn>) => {
      if (origin === location.origin && source === this.frame().nativeElement.contentWindow) this.hear(data);
    };
    addEventListener('message', hear);
    inject(DestroyRef).onDestroy(() => removeEventListener('message', hear));
    effect(() => {
      const [manifest, device, asset] = [this.manifest(), this.device(), this.asset()];
      if (!this.ready()) return;
      untracked(() => {
        this.loaded.emit(null);
        if (manifest && asset) this.tell({ show: { manifest, device, asset } });
      });
    });
    effect(() => {
      const look = this.look();
      if (this.ready() && look) this.tell(look);
    });
  }

  private tell = (message: ToStandIn): void => this.frame().nativeElement.contentWindow?.postMessage(message, location.origin);
  private hear(said: FromStandIn): void {
    if (said.target === 'ready') this.ready.set(true);
    else if (said.target === 'progress') this.status.set(`${Math.round(100 * said.progress)} % ${said.note}`);
    else if (said.target === 'failed') this.status.set(said.message);
    else if (said.target === 'loaded') {
      this.status.set(null);
      this.loaded.emit(said);
    } else {
      this.waiting.get(said.picture)?.(said.image);
      this.waiting.delete(said.picture);
    }
  }

  /** What the device shows, once it rests. */
  picture(width: number, height: number): Promise<ImageData> {
    return new Promise((resolve) => {
      const picture = this.next++;
      this.waiting.set(picture, resolve);
      this.tell({ picture, width, height });
    });
  }
}

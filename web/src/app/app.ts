import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { RouterOutlet } from '@angular/router';
import { ConfirmDialogModule } from 'primeng/confirmdialog';
import { ToastModule } from 'primeng/toast';
import { ThemeService } from '../shared/theme.service';
import { UndoToast } from '../shared/undo-toast';

@Component({
  selector: 'ts-root',
  imports: [RouterOutlet, ToastModule, ConfirmDialogModule, UndoToast],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<router-outlet /><p-toast position="bottom-right" /><ts-undo-toast /><p-confirmdialog
      [style]="{ width: 'min(480px, 92vw)' }"
    />`,
})
export class App {
  // Made here so that the theme is set before the first page shows.
  protected readonly theme = inject(ThemeService);
}

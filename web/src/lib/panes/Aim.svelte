<!-- The cross at the middle of a pane that the keyboard points with. -->
<svg class="pointer-events-none absolute top-1/2 left-1/2 -translate-x-1/2 -translate-y-1/2" width="40" height="40" aria-hidden="true"
	><path d="M20 2v14M20 24v14M2 20h14M24 20h14" stroke="#fff" stroke-width="4" /><path
		d="M20 2v14M20 24v14M2 20h14M24 20h14"
		stroke="var(--ink)"
		stroke-width="1.5"
	/></svg
>

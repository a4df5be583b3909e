<script lang="ts">
	import { tableKind } from '#core/tables/kinds';
	import { hasMarks } from '$lib/workbench/kinds';
	import { COPPER, HELD, NOTED } from '#core/palette';
	import SlicePanel from './SlicePanel.svelte';
	import { onMount, untrack } from 'svelte';
	import { columnOf, numberOf } from '#core/datasets/dataset';
	import { RADIANS } from '#core/geometry/angles';
	import type { Pixel } from '#core/scene/in-outline';
	import { proposePattern } from '#core/styles/patterns';
	import { readyScale } from '#core/styles/scale';
	import { scaleOf, sortedColumn } from '#core/styles/style';
	import { settingsOf } from '$lib/workbench/bench.svelte';
	import type { PaneState, Slice } from '$lib/workbench/state';
	import type { Workspace } from '$lib/workspace.svelte';
	import { contourLines } from '../map/terrain-picture';
	import { setExporter } from '../export.svelte';
	import { rgbOfPaint } from '../paint';
	import { BACKGROUNDS, keepBackground } from './background';
	import { boxOfData, seesBox } from './box-of-data';
	import { showBroughtIn } from './brought-in';
	import { ExtentHandles } from './extent-handles';
	import { choosePicked, describe, lookAtHoles, pointedAt, rowsWithin, wantedHoles, type Shown } from './pointing';
	import { SpaceScene } from './scene';
	import { changedSlice, movedSlice } from './slice-change';
	import type { CameraState, Look } from './stage';
	import { measuredText, type Tool } from './measuring';
	import SpaceNotes from './SpaceNotes.svelte';
	import SpaceOutline from './SpaceOutline.svelte';
	import SpaceTools from './SpaceTools.svelte';
	import SpaceView from './SpaceView.svelte';
	import { liftsOf, textsOf } from './texts';
	import { viewFacts } from './view-facts';

	let { workspace, id, pane }: { workspace: Workspace; id: string; pane: PaneState } = $props();
	untrack(() => workspace.need('holes', 'terrain', 'model', 'things'));
	const my = settingsOf(
		untrack(() => pane),
		'space',
		{
			camera: null as CameraState | null,
			parallel: false,
			background: 'paper',
			axes: true,
			names: true,
			depths: false,
			only: 'all',
			peel: 0,
			apart: 0,
			solids: null as string | null
		}
	);
	let host: HTMLDivElement;
	let scene = $state.raw<SpaceScene | null>(null);
	let extentHandles = $state.raw<ExtentHandles | null>(null);
	let problem = $state('');
	let open = $state<'' | 'view' | 'slice'>('');
	let heading = $state(0);
	let scaleBar = $state({ px: 0, text: '' });
	let tool = $state<Tool>('');
	let measured = $state.raw<[number, number, number][]>([]);
	const bench = $derived(workspace.bench.state);
	const sets = $derived(workspace.sets);
	/** What is framed: the extent of the model; before there is one, what was brought in. */
	const box = $derived(workspace.project?.extent ?? boxOfData(sets.paths, workspace.terrain));
	const unit = $derived(workspace.project?.lengthUnit ?? 'm');

	/** Sets up the scene. @returns takes it down again */
	function begin(): () => void {
		let s: SpaceScene;
		try {
			s = new SpaceScene(host);
		} catch {
			problem = 'This browser shows no 3D (WebGL is off).';
			return () => {};
		}
		scene = s;
		const handles = new ExtentHandles(s.stage);
		handles.changed = (box, done) => workspace.dragExtent(box, done);
		extentHandles = handles;
		s.moved = () => {
			my.camera = s.stage.touched ? s.stage.cameraState : null;
		};
		s.stage.after.push(() => {
			host.dataset['calls'] = String(s.drawCalls);
			host.dataset['tubes'] = String(s.tubeCount);
			host.dataset['version'] = String(s.tubeVersion);
			host.dataset['handles'] = JSON.stringify(extentHandles?.onScreen() ?? []);
			({ heading, scaleBar } = viewFacts(s.stage, unit));
		});
		s.slicing.moved = (at, normal) => (workspace.bench.state.slice = movedSlice(bench.slice, at, normal));
		const watch = new ResizeObserver(() => s.stage.resize());
		watch.observe(host);
		return () => {
			watch.disconnect();
			s.dispose();
			scene = null;
		};
	}
	onMount(() => {
		// What can be used at once comes first: setting up WebGL keeps the page busy.
		let end = () => {};
		const idle = 'requestIdleCallback' in window;
		const wait = idle ? requestIdleCallback(() => (end = begin()), { timeout: 1500 }) : setTimeout(() => (end = begin()), 200);
		return () => {
			if (idle) cancelIdleCallback(wait as number);
			else clearTimeout(wait);
			end();
		};
	});

	/** The model that this pane shows. */
	const solids = $derived(workspace.solids(my.solids));
	const awaited = $derived(workspace.objects.find((o) => o.id === (my.solids ?? workspace.object('model')?.id)));
	$effect(() => workspace.needSolids(my.solids));
	const mesh = $derived(solids?.mesh ?? null);
	const paint = $derived(solids === workspace.ownSolids ? workspace.paint : null);
	const unitInfo = $derived(solids?.units ?? []);
	/** Units of the model from the top of the column down. */
	const fromTop = $derived(solids?.column ?? []);
	const peeled = $derived(new Set(fromTop.slice(0, my.peel).map((u) => u.id)));
	const seesUnit = (u: (typeof unitInfo)[number]) => Boolean(u && workspace.shown(`unit:${u.id}`) && !peeled.has(u.id));
	/** Units stand apart only while nothing is cut open. */
	const isApart = $derived(my.apart > 0 && bench.slice.kind === 'none' && !paint?.surfacesOnly);
	const lifts = $derived(
		isApart && workspace.project?.extent
			? liftsOf(
					fromTop.filter((u) => seesUnit(u)).map((u) => unitInfo.findIndex((i) => i?.id === u.id)),
					((workspace.project.extent.maxZ - workspace.project.extent.minZ) * my.apart) / 100
				)
			: new Map<number, number>()
	);
	const patternOf = (i: number) => proposePattern(unitInfo[i]?.name ?? '');
	const section = $derived(workspace.section);
	const along = $derived(workspace.shown('holes') ? sets.of(workspace.along) : null);
	const painter = $derived(along ? sets.painter(along) : null);
	const wanted = $derived(wantedHoles(workspace, my.only));
	const scale = $derived.by(() => {
		const style = along ? sets.style(along) : null;
		const column = along && style ? columnOf(along, style.by) : null;
		return column && column.type !== 'category'
			? {
					column,
					scale: readyScale(scaleOf(column, style!, sortedColumn(column)), sortedColumn(column)),
					kind: scaleOf(column, style!, sortedColumn(column))
				}
			: null;
	});
	const curves = $derived(
		bench.curves.flatMap((curve) => {
			const set = sets.of(curve.table);
			const column = set ? numberOf(set, curve.column) : null;
			if (!set || !column) return [];
			const sorted = sortedColumn(column);
			return [{ curve, set, column, at: readyScale(scaleOf(column, sets.style(set), sorted), sorted).at }];
		})
	);
	/** Tables with places that are shown, and planes in holes. */
	const rowSets = $derived(
		workspace.tables.flatMap((t) => {
			if (isApart || !hasMarks(t) || !workspace.shown(`data:${t.id}`)) return [];
			const set = sets.of(t.id);
			return set ? [set] : [];
		})
	);

	/** Shown data sets that are still on their way. */
	const loading = $derived(
		workspace.tables.some(
			(t) => (t.id === workspace.along ? workspace.shown('holes') : hasMarks(t)) && workspace.shown(`data:${t.id}`) && !sets.of(t.id)
		)
	);
	$effect(() => {
		if (scene) scene.stage.paused = loading;
	});
	$effect(() => {
		if (!box || !scene) return;
		scene.setExtent(box, Boolean(workspace.project?.extent));
		const kept = untrack(() => my.camera);
		// A view that was kept when something else was here, far away, is not given back.
		if (kept && seesBox(kept, box)) untrack(() => (scene!.stage.cameraState = kept));
	});
	$effect(() => {
		void box;
		void bench.exaggeration;
		extentHandles?.set(workspace.extentDraft);
	});
	$effect(() => scene?.stage.setParallel(my.parallel));
	$effect(() => {
		void box;
		scene?.setModel(mesh, paint ? { rgb: rgbOfPaint(paint), surfacesOnly: paint.surfacesOnly } : null, patternOf);
	});
	$effect(() => {
		void box;
		scene?.terrain.set(workspace.terrain);
	});
	$effect(() => {
		if (!scene || !solids) return;
		// What is set anew by these is styled anew.
		void box;
		void mesh;
		void paint;
		const opacity = workspace.opacityOf('volumes');
		const all = workspace.shown('volumes');
		unitInfo.forEach((u, i) => u && scene!.styleUnit(i, u.color, all && seesUnit(u), opacity));
		solids.faults.forEach((f, i) => scene!.styleFault(i, !isApart && workspace.shown(`fault:${f.id}`)));
	});
	$effect(() => {
		void box;
		scene?.setApart(lifts);
	});
	$effect(() => {
		void box;
		void workspace.terrain;
		scene?.terrain.style(!isApart && workspace.shown('terrain'), workspace.opacityOf('terrain'));
	});
	$effect(() => {
		void box;
		scene?.terrain.setContours(
			workspace.terrain && !isApart && workspace.shown('contours') ? contourLines(workspace.terrain, bench.contourInterval) : []
		);
	});
	$effect(() => {
		void box;
		void workspace.terrain;
		if (scene) showBroughtIn(scene.broughtIn, workspace);
	});
	$effect(() => {
		void box;
		scene?.setMarks(
			!isApart && workspace.shown('findings')
				? workspace.findingPlaces.map((f) => ({ ...f, color: f.severity === 'held' ? HELD : NOTED }))
				: []
		);
	});
	$effect(() => {
		void box;
		const style = along ? sets.style(along) : null;
		const tubes =
			along && painter && style && workspace.shown(`data:${along.id}`)
				? { set: along, painter, size: style.size.value, inPixels: style.size.unit === 'px', opacity: style.opacity }
				: null;
		scene?.setHoles(sets.paths, tubes, wanted);
		scene?.showHoles(!isApart && workspace.shown('holes'));
		scene?.setCurves(workspace.shown('holes') ? curves : [], wanted);
	});
	$effect(() => {
		void box;
		scene?.rows.set(
			rowSets.map((set) => {
				const style = sets.style(set);
				return {
					set,
					painter: sets.painter(set),
					place: (i: number) => sets.placeOf(set, i),
					size: style.size.value,
					inPixels: style.size.unit === 'px',
					opacity: style.opacity,
					discs: tableKind(set.kind).directions === true
				};
			})
		);
	});
	const isAlongSelected = $derived(workspace.selection?.kind === 'rows' && workspace.selection.table === along?.id);
	$effect(() => {
		// Of rows along holes those rows glow, not their holes.
		const names = isAlongSelected ? new Set<string>() : workspace.selectedHoles;
		const paths = sets.paths;
		scene?.setHighlight(paths, paths ? paths.holes.flatMap((h, i) => (names.has(h.name) ? [i] : [])) : []);
	});
	$effect(() => {
		const s = workspace.selection;
		const set = s?.kind === 'rows' && along?.id === s.table && along.place === 'interval' && workspace.shown('holes') ? along : null;
		const size = set ? sets.style(set).size : null;
		scene?.setGlow(sets.paths, set, new Set(s?.kind === 'rows' && set ? s.rows : []), size?.value ?? 1, size?.unit === 'px');
	});
	$effect(() => scene?.stage.setExaggeration(bench.exaggeration));
	$effect(() => {
		void bench.exaggeration;
		if (!scene) return;
		const line = section ? ([section.trace[0]!, section.trace[section.trace.length - 1]!] as const) : null;
		const { slice } = bench;
		const solids =
			slice.kind !== 'none' && mesh && !paint?.surfacesOnly && workspace.shown('volumes') && workspace.opacityOf('volumes') > 0.9
				? {
						mesh,
						colors: unitInfo.map((u) => (seesUnit(u) ? u!.color : null)),
						patterns: unitInfo.map((_, i) => patternOf(i))
					}
				: null;
		scene.slicing.set(slice, line, solids);
	});
	$effect(() => {
		const p = workspace.probe;
		scene?.setProbe(p && p.z !== null && p.from !== id ? { x: p.x, y: p.y, z: p.z } : null);
	});
	$effect(() => (scene ? keepBackground(scene, my.background) : undefined));

	/** Names, depths and labels of rows. */
	const texts = $derived(
		textsOf(workspace, { holes: !isApart && workspace.shown('holes'), names: my.names, depths: my.depths }, wanted, [
			...rowSets,
			...(along && workspace.shown(`data:${along.id}`) ? [along] : [])
		])
	);
	$effect(() => {
		if (!scene) return;
		scene.overlay.texts = texts;
		scene.overlay.axes = my.axes && Boolean(workspace.project?.extent);
		scene.overlay.lines = measured.length ? [{ points: measured, color: COPPER }] : [];
		scene.draw();
	});

	/** What is drawn, for what is pointed at. */
	const shown = (): Shown | null => scene && { workspace, scene, solids, along, rowSets, wanted, unit };

	let idle: ReturnType<typeof setTimeout> | null = null;
	function hover(event: PointerEvent) {
		if (event.buttons) return;
		if (idle) clearTimeout(idle);
		idle = setTimeout(() => {
			const all = shown();
			const p = all && pointedAt(all, event);
			if (p) workspace.probe = { x: p.x, y: p.y, z: p.z, what: describe(all, p), from: id };
		}, 60);
	}

	let pressed = { x: 0, y: 0 };
	function choose(event: MouseEvent) {
		// The end of a drag is no press.
		if (Math.hypot(event.clientX - pressed.x, event.clientY - pressed.y) > 4 || (event.target as Element) !== scene?.canvas) return;
		const all = shown();
		const p = all && pointedAt(all, event);
		if (tool) {
			if (p) measured = [...(measured.length >= (tool === 'line' ? 2 : 3) ? [] : measured), [p.x, p.y, p.z]];
		} else if (p) choosePicked(all, p, event);
	}

	function pickIn(outline: Pixel[], event: PointerEvent | KeyboardEvent) {
		const all = shown();
		if (!all || !along) return;
		const inside = rowsWithin(all, along, outline);
		if (inside.length) workspace.pressRows(along.id, inside, event);
		else workspace.say('No interval lies within the outline.');
	}

	/** Goes near to what is pressed twice: a whole hole, else the place itself. */
	function flyTo(event: MouseEvent) {
		const all = shown();
		if (!all || tool) return;
		const p = pointedAt(all, event);
		if (!p) return;
		if (p.what.kind === 'hole') return lookAtSelection();
		const { stage } = all.scene;
		const reach = stage.size / 14;
		const at = stage.toScene(p.x, p.y, p.z);
		stage.lookAtBox(at.clone().subScalar(reach), at.clone().addScalar(reach));
	}

	function lookAtSelection() {
		const { paths } = sets;
		if (!scene || !paths) return;
		if (!lookAtHoles(scene.stage, paths, workspace.selectedHoles)) workspace.say('Select a hole or rows of holes first.');
	}
	const azimuth = $derived(
		section
			? Math.atan2(
					section.trace[section.trace.length - 1]![0] - section.trace[0]![0],
					section.trace[section.trace.length - 1]![1] - section.trace[0]![1]
				) / RADIANS
			: 0
	);
	function look(from: Look | 'section' | 'selection') {
		if (from === 'section') scene?.stage.lookAtSection(azimuth);
		else if (from === 'selection') lookAtSelection();
		else scene?.stage.look(from);
	}
	function keys(event: KeyboardEvent) {
		if (!scene || event.ctrlKey || event.altKey || event.metaKey) return;
		if (event.key === 'Escape') {
			tool = '';
			measured = [];
		} else if (scene.stage.key(event.key)) event.preventDefault();
	}
	const change = (part: Partial<Slice>) => {
		workspace.bench.state.slice = changedSlice(bench.slice, part, workspace.project?.extent ?? null);
	};
	const result = $derived(measuredText(tool, measured, unit));

	setExporter(() => id, {
		name: 'space',
		png: async (width, height) => {
			if (!scene) throw new Error(problem || 'There is no 3D picture to save.');
			return scene.stage.picture(width, height, (context, s) => scene!.overlay.paint(context, s));
		}
	});
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
<div
	bind:this={host}
	class="absolute inset-0 overflow-hidden {tool ? 'cursor-crosshair' : ''}"
	role="application"
	tabindex="0"
	aria-label="Space: {sets.paths?.holes.length ?? 0} holes{solids
		? ` and ${solids.units.length} units as volumes`
		: ''}. Drag or arrow keys turn it, right drag moves it, wheel or plus and minus zoom, 0 shows all."
	onpointermove={hover}
	onpointerdown={(e) => (pressed = { x: e.clientX, y: e.clientY })}
	onclick={choose}
	ondblclick={flyTo}
	onkeydown={keys}
></div>
{#if problem}
	<div class="bg-base-100 absolute inset-0 p-6" role="alert">
		<p class="mb-3">{problem} Map and section work without it.</p>
		<button class="btn btn-sm" onclick={() => (pane.view = 'map')}>Show the map here</button>
		<button class="btn btn-sm" onclick={() => (pane.view = 'section')}>Show the section here</button>
	</div>
{:else}
	{#if tool === 'outline' && along?.place === 'interval'}<SpaceOutline done={pickIn} leave={() => (tool = '')} />{/if}
	<SpaceTools
		bind:open
		bind:tool={() => tool, (t) => ((tool = t), (measured = []))}
		hasSection={Boolean(section)}
		hasIntervals={along?.place === 'interval'}
		isCut={bench.slice.kind !== 'none'}
		{look}
	/>
	{#if open === 'view'}
		<SpaceView {workspace} {my} backgrounds={BACKGROUNDS} {fromTop} isCut={bench.slice.kind !== 'none'} />
	{:else if open === 'slice'}
		<SlicePanel slice={bench.slice} hasSection={Boolean(section)} {unit} {change} />
	{/if}
	{#if tool}<p
			class="bg-base-100/90 rule absolute bottom-9 left-1/2 -translate-x-1/2 border px-2 py-0.5 text-sm whitespace-nowrap"
			role="status"
		>
			{result}
		</p>{/if}
	<SpaceNotes
		{heading}
		{scaleBar}
		{workspace}
		{solids}
		isAwaited={awaited?.missing === false}
		{paint}
		scale={workspace.shown('holes') ? scale : null}
	/>
{/if}

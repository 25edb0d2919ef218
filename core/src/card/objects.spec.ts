import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import {
  kindOf,
  keptRoot,
  objectsOf,
  setAsideReason,
  DEFAULT_KEEPING,
  STRUCTURES,
  treeHolders,
  treeRoots,
  type Belonging,
  type ListedFile,
} from './index.js';

const GB = 1_000_000_000;

/** What becomes of files, as short sentences: `role[part/parts] of leader`. */
function told(files: readonly (string | ListedFile)[]): Record<string, string> {
  const listed = files.map((file) => (typeof file === 'string' ? { path: file } : file));
  return Object.fromEntries([...objectsOf(listed)].map(([path, one]) => [path, sentence(one)]));
}
const sentence = ({ role, part, parts, object }: Belonging) => `${role}${part === null ? '' : ` ${part}/${parts}`} of ${object}`;

/** Cards as each structure writes them. */
const CARDS: Readonly<Record<string, readonly ListedFile[]>> = {
  dcf: [
    'DCIM/100HALDN/HM4_0001.JPG',
    'DCIM/100HALDN/HM4_0001.DNG',
    'DCIM/100HALDN/HM4_0001.WAV',
    'DCIM/100HALDN/HM4_0002.AVI',
    'DCIM/100HALDN/HM4_0002.THM',
    'DCIM/100HALDN/_M4_0003.JPG',
    'DCIM/100HALDN/HM4_0003.DNG',
    'DCIM/101HALDN/HM4_0001.JPG',
  ].map((path) => ({ path })),
  phone: [
    'DCIM/100PHONE/IMG_0001.HEIC',
    'DCIM/100PHONE/IMG_0001.MOV',
    'DCIM/100PHONE/IMG_E0001.JPG',
    'DCIM/100PHONE/IMG_0001.AAE',
    'DCIM/100PHONE/IMG_O0001.AAE',
    'DCIM/Camera/PX_20260418_123000123.RAW-01.COVER.jpg',
    'DCIM/Camera/PX_20260418_123000123.RAW-02.ORIGINAL.dng',
    'DCIM/Camera/PX_20260418_123000123~2.jpg',
    'DCIM/Camera/00000IMG_00000_BURST20260418124500000_COVER.jpg',
    'DCIM/Camera/00001IMG_00001_BURST20260418124500000.jpg',
    'DCIM/Camera/00002IMG_00002_BURST20260418124500000.jpg',
    'DCIM/Camera/20260418_130000.jpg',
    'DCIM/Camera/20260418_130001.jpg',
  ].map((path) => ({ path })),
  chapters: [
    'DCIM/100ACTN/AX010007.MP4',
    'DCIM/100ACTN/AX020007.MP4',
    'DCIM/100ACTN/AX030007.MP4',
    'DCIM/100ACTN/AL010007.LRV',
    'DCIM/100ACTN/AX010007.THM',
    'DCIM/100ACTN/AX010008.MP4',
    'DCIM/100ACTN/G0010001.JPG',
    'DCIM/100ACTN/G0010002.JPG',
    'DCIM/100ACTN/G0020003.JPG',
  ].map((path) => ({ path })),
  drone: [
    'DCIM/100FLY/FLY_0001.MP4',
    'DCIM/100FLY/FLY_0001.SRT',
    'DCIM/100FLY/FLY_0001.LRF',
    'DCIM/100FLY/FLY_0002.JPG',
    'DCIM/100FLY/FLY_0002.DNG',
    'MISC/THM/100/FLY_0001.THM',
    'MISC/THM/100/FLY_0001.SCR',
  ].map((path) => ({ path })),
  avchd: [
    { path: 'PRIVATE/AVCHD/BDMV/INDEX.BDM', bytes: 300 },
    { path: 'PRIVATE/AVCHD/BDMV/MOVIEOBJ.BDM', bytes: 300 },
    { path: 'PRIVATE/AVCHD/BDMV/STREAM/00000.MTS', bytes: 2 ** 31 - 40_000 },
    { path: 'PRIVATE/AVCHD/BDMV/STREAM/00001.MTS', bytes: GB },
    { path: 'PRIVATE/AVCHD/BDMV/STREAM/00002.MTS', bytes: GB },
    { path: 'PRIVATE/AVCHD/BDMV/CLIPINF/00000.CPI', bytes: 300 },
    { path: 'PRIVATE/AVCHD/BDMV/CLIPINF/00001.CPI', bytes: 300 },
    { path: 'PRIVATE/AVCHD/BDMV/CLIPINF/00002.CPI', bytes: 300 },
    { path: 'PRIVATE/AVCHD/BDMV/PLAYLIST/00000.MPL', bytes: 300 },
    { path: 'PRIVATE/AVCHD/AVCHDTN/THUMB.TDT', bytes: 300 },
  ],
  'clip root': [
    'PRIVATE/M4ROOT/CLIP/C0001.MP4',
    'PRIVATE/M4ROOT/CLIP/C0001M01.XML',
    'PRIVATE/M4ROOT/CLIP/C0002.MP4',
    'PRIVATE/M4ROOT/CLIP/C0002M01.XML',
    'PRIVATE/M4ROOT/SUB/C0001S03.MP4',
    'PRIVATE/M4ROOT/THMBNL/C0001T01.JPG',
    'PRIVATE/M4ROOT/GENERAL/LUT/MARSH.CUBE',
    'PRIVATE/M4ROOT/MEDIAPRO.XML',
    'PRIVATE/M4ROOT/STATUS.BIN',
  ].map((path) => ({ path })),
  contents: [
    'CONTENTS/VIDEO/0001AB.MXF',
    'CONTENTS/AUDIO/0001AB00.MXF',
    'CONTENTS/AUDIO/0001AB01.MXF',
    'CONTENTS/CLIP/0001AB.XML',
    'CONTENTS/ICON/0001AB.BMP',
    'CONTENTS/PROXY/0001AB.MP4',
    'CONTENTS/VOICE/0001AB00.WAV',
    'CONTENTS/CLIPS001/AA0001/AA000101.MXF',
    'CONTENTS/CLIPS001/AA0001/AA000102.MXF',
    'CONTENTS/CLIPS001/AA0001/AA000101.XML',
    'CONTENTS/LASTCLIP.TXT',
  ].map((path) => ({ path })),
  segments: [
    'A001_0418AB.RDM/A001_C001_0418AB.RDC/A001_C001_0418AB_001.R3D',
    'A001_0418AB.RDM/A001_C001_0418AB.RDC/A001_C001_0418AB_002.R3D',
    'A001_0418AB.RDM/A001_C001_0418AB.RDC/A001_C001_0418AB_H.mov',
    'A001_0418AB.RDM/A001_C001_0418AB.RDC/A001_C001_0418AB.RMD',
    'A001_0418AB.RDM/A001_C002_0418CD.RDC/A001_C002_0418CD_001.R3D',
    'digital_magazine.bin',
  ].map((path) => ({ path })),
  recorder: [
    'TAKE_001/TAKE_001_LR.WAV',
    'TAKE_001/TAKE_001_Tr1.WAV',
    'TAKE_001/TAKE_001_Tr2.WAV',
    'TAKE_001/TAKE_001.hprj',
    'TAKE_002/TAKE_002_Tr1.WAV',
  ].map((path) => ({ path })),
  'camera tree': [
    'NVREC/INDEX.NVX',
    'NVREC/DAY01/R0001.MOV',
    'NVREC/DAY01/R0001.XML',
    'NVREC/DAY02/R0001.MOV',
    'NVREC/SMALL/R0002.MP4',
  ].map((path) => ({ path })),
};

describe('objects, structure by structure', () => {
  it('DCF: the same number in one folder is one exposure; an underscore is another colour space', () => {
    // CIPA DC-009 (DCF), from memory: a DCF object is the files of one number in one folder; the name of an image in the
    // optional colour space begins with an underscore.
    expect(told(CARDS['dcf']!)).toEqual({
      'DCIM/100HALDN/HM4_0001.JPG': 'leader of DCIM/100HALDN/HM4_0001.JPG',
      'DCIM/100HALDN/HM4_0001.DNG': 'raw of DCIM/100HALDN/HM4_0001.JPG',
      'DCIM/100HALDN/HM4_0001.WAV': 'sound of DCIM/100HALDN/HM4_0001.JPG',
      'DCIM/100HALDN/HM4_0002.AVI': 'leader of DCIM/100HALDN/HM4_0002.AVI',
      'DCIM/100HALDN/HM4_0002.THM': 'thumbnail of DCIM/100HALDN/HM4_0002.AVI',
      'DCIM/100HALDN/_M4_0003.JPG': 'leader of DCIM/100HALDN/_M4_0003.JPG',
      'DCIM/100HALDN/HM4_0003.DNG': 'raw of DCIM/100HALDN/_M4_0003.JPG',
      'DCIM/101HALDN/HM4_0001.JPG': 'leader of DCIM/101HALDN/HM4_0001.JPG',
    });
  });

  it('phone: moving part, edit and adjustments with the original, raw beside the still, bursts', () => {
    const still = 'DCIM/100PHONE/IMG_0001.HEIC';
    const cover = 'DCIM/Camera/PX_20260418_123000123.RAW-01.COVER.jpg';
    const burst = 'DCIM/Camera/00000IMG_00000_BURST20260418124500000_COVER.jpg';
    expect(told(CARDS['phone']!)).toEqual({
      [still]: `leader of ${still}`,
      'DCIM/100PHONE/IMG_0001.MOV': `part of ${still}`,
      'DCIM/100PHONE/IMG_E0001.JPG': `edit of ${still}`,
      'DCIM/100PHONE/IMG_0001.AAE': `sidecar of ${still}`,
      'DCIM/100PHONE/IMG_O0001.AAE': `sidecar of ${still}`,
      [cover]: `leader of ${cover}`,
      'DCIM/Camera/PX_20260418_123000123.RAW-02.ORIGINAL.dng': `raw of ${cover}`,
      'DCIM/Camera/PX_20260418_123000123~2.jpg': `edit of ${cover}`,
      [burst]: `leader 1/3 of ${burst}`,
      'DCIM/Camera/00001IMG_00001_BURST20260418124500000.jpg': `part 2/3 of ${burst}`,
      'DCIM/Camera/00002IMG_00002_BURST20260418124500000.jpg': `part 3/3 of ${burst}`,
      'DCIM/Camera/20260418_130000.jpg': 'leader of DCIM/Camera/20260418_130000.jpg',
      'DCIM/Camera/20260418_130001.jpg': 'leader of DCIM/Camera/20260418_130001.jpg',
    });
  });

  it('chapters before the number, in order, each with its small version and thumbnail; a series stays in one run', () => {
    const clip = 'DCIM/100ACTN/AX010007.MP4';
    expect(told(CARDS['chapters']!)).toMatchObject({
      [clip]: `leader 1/3 of ${clip}`,
      'DCIM/100ACTN/AX020007.MP4': `part 2/3 of ${clip}`,
      'DCIM/100ACTN/AX030007.MP4': `part 3/3 of ${clip}`,
      'DCIM/100ACTN/AL010007.LRV': `proxy 1/3 of ${clip}`,
      'DCIM/100ACTN/AX010007.THM': `thumbnail 1/3 of ${clip}`,
      'DCIM/100ACTN/AX010008.MP4': 'leader of DCIM/100ACTN/AX010008.MP4',
    });
    const found = objectsOf(CARDS['chapters']!);
    const series = (name: string) => found.get(`DCIM/100ACTN/${name}`)!.series;
    expect(series('G0010001.JPG')).toBe(series('G0010002.JPG'));
    expect(series('G0020003.JPG')).not.toBe(series('G0010001.JPG'));
  });

  it('chapters whose first has four letters', () => {
    expect(told(['A/ACTN0007.MP4', 'A/AC010007.MP4', 'A/AC020007.MP4'])).toEqual({
      'A/ACTN0007.MP4': 'leader 1/3 of A/ACTN0007.MP4',
      'A/AC010007.MP4': 'part 2/3 of A/ACTN0007.MP4',
      'A/AC020007.MP4': 'part 3/3 of A/ACTN0007.MP4',
    });
  });

  it('numbers behind a clip are chapters only where the sizes say that it was broken up', () => {
    const sized = (...bytes: number[]) => bytes.map((size, index) => ({ path: `V/REC0007_0${index + 1}.MP4`, bytes: size }));
    expect(told(sized(4 * GB, 4 * GB, GB))['V/REC0007_03.MP4']).toBe('part 3/3 of V/REC0007_01.MP4');
    expect(told(sized(4 * GB, 1 * GB, 3 * GB))['V/REC0007_03.MP4']).toBe('leader of V/REC0007_03.MP4');
    const days = [1, 2].map((day) => ({ path: `V/VID_20260418_0${day}.MP4`, bytes: GB }));
    expect(told(days)['V/VID_20260418_02.MP4']).toBe('leader of V/VID_20260418_02.MP4');
  });

  it('a chapter missing in the middle leaves the others in order', () => {
    expect(told(['A/AX010007.MP4', 'A/AX030007.MP4'])['A/AX030007.MP4']).toBe('part 2/2 of A/AX010007.MP4');
  });

  it('2,000 chapters', () => {
    const files = Array.from({ length: 99 }, (_, n) => ({ path: `A/AX${String(n + 1).padStart(2, '0')}0007.MP4` }));
    const behind = Array.from({ length: 999 }, (_, n) => ({
      path: `B/REC0007_${String(n + 1).padStart(3, '0')}.MP4`,
      bytes: GB,
    }));
    expect(told(files)['A/AX990007.MP4']).toBe('part 99/99 of A/AX010007.MP4');
    expect(told(behind)['B/REC0007_999.MP4']).toBe('part 999/999 of B/REC0007_001.MP4');
  });

  it('drone: subtitles, raw, and thumbnails elsewhere on the card', () => {
    expect(told(CARDS['drone']!)).toMatchObject({
      'DCIM/100FLY/FLY_0001.SRT': 'sidecar of DCIM/100FLY/FLY_0001.MP4',
      'DCIM/100FLY/FLY_0001.LRF': 'proxy of DCIM/100FLY/FLY_0001.MP4',
      'DCIM/100FLY/FLY_0002.DNG': 'raw of DCIM/100FLY/FLY_0002.JPG',
      'MISC/THM/100/FLY_0001.THM': 'thumbnail of DCIM/100FLY/FLY_0001.MP4',
      'MISC/THM/100/FLY_0001.SCR': 'thumbnail of DCIM/100FLY/FLY_0001.MP4',
    });
  });

  it('AVCHD: a stream broken off at 2 GB goes on in the next, the tree is one', () => {
    const at = 'PRIVATE/AVCHD/BDMV';
    expect(told(CARDS['avchd']!)).toMatchObject({
      [`${at}/STREAM/00000.MTS`]: `leader 1/2 of ${at}/STREAM/00000.MTS`,
      [`${at}/STREAM/00001.MTS`]: `part 2/2 of ${at}/STREAM/00000.MTS`,
      [`${at}/STREAM/00002.MTS`]: `leader of ${at}/STREAM/00002.MTS`,
      [`${at}/CLIPINF/00001.CPI`]: `sidecar of ${at}/STREAM/00000.MTS`,
      [`${at}/PLAYLIST/00000.MPL`]: 'index of PRIVATE/AVCHD/AVCHDTN/THUMB.TDT',
    });
    for (const one of objectsOf(CARDS['avchd']!).values())
      expect(one).toMatchObject({ structure: 'avchd', root: 'PRIVATE/AVCHD' });
  });

  it('clips with an index: description, small version, thumbnail with the clip', () => {
    const clip = 'PRIVATE/M4ROOT/CLIP/C0001.MP4';
    const index = 'PRIVATE/M4ROOT/GENERAL/LUT/MARSH.CUBE';
    expect(told(CARDS['clip root']!)).toMatchObject({
      'PRIVATE/M4ROOT/CLIP/C0001M01.XML': `sidecar of ${clip}`,
      'PRIVATE/M4ROOT/SUB/C0001S03.MP4': `proxy of ${clip}`,
      'PRIVATE/M4ROOT/THMBNL/C0001T01.JPG': `thumbnail of ${clip}`,
      'PRIVATE/M4ROOT/CLIP/C0002.MP4': 'leader of PRIVATE/M4ROOT/CLIP/C0002.MP4',
      'PRIVATE/M4ROOT/MEDIAPRO.XML': `index of ${index}`,
      [index]: `index of ${index}`,
    });
  });

  it('CONTENTS: one clip by its number across the folders', () => {
    const clip = 'CONTENTS/VIDEO/0001AB.MXF';
    expect(told(CARDS['contents']!)).toMatchObject({
      'CONTENTS/AUDIO/0001AB01.MXF': `sound of ${clip}`,
      'CONTENTS/CLIP/0001AB.XML': `sidecar of ${clip}`,
      'CONTENTS/ICON/0001AB.BMP': `thumbnail of ${clip}`,
      'CONTENTS/PROXY/0001AB.MP4': `proxy of ${clip}`,
      'CONTENTS/VOICE/0001AB00.WAV': `sound of ${clip}`,
      'CONTENTS/CLIPS001/AA0001/AA000102.MXF': 'part 2/2 of CONTENTS/CLIPS001/AA0001/AA000101.MXF',
      'CONTENTS/CLIPS001/AA0001/AA000101.XML': 'sidecar of CONTENTS/CLIPS001/AA0001/AA000101.MXF',
    });
  });

  it('segments: one clip, video and not raw, its small version with it', () => {
    const clip = 'A001_0418AB.RDM/A001_C001_0418AB.RDC/A001_C001_0418AB_001.R3D';
    const at = 'A001_0418AB.RDM/A001_C001_0418AB.RDC';
    expect(told(CARDS['segments']!)).toMatchObject({
      [clip]: `leader 1/2 of ${clip}`,
      [`${at}/A001_C001_0418AB_002.R3D`]: `part 2/2 of ${clip}`,
      [`${at}/A001_C001_0418AB_H.mov`]: `proxy of ${clip}`,
      [`${at}/A001_C001_0418AB.RMD`]: `sidecar of ${clip}`,
    });
    expect(kindOf(clip)).toBe('video');
  });

  it('recorder: the tracks of a take, the mix first, and its project file', () => {
    const take = 'TAKE_001/TAKE_001_LR.WAV';
    expect(told(CARDS['recorder']!)).toEqual({
      [take]: `leader 1/3 of ${take}`,
      'TAKE_001/TAKE_001_Tr1.WAV': `part 2/3 of ${take}`,
      'TAKE_001/TAKE_001_Tr2.WAV': `part 3/3 of ${take}`,
      'TAKE_001/TAKE_001.hprj': `index of ${take}`,
      'TAKE_002/TAKE_002_Tr1.WAV': 'leader of TAKE_002/TAKE_002_Tr1.WAV',
    });
  });

  it('a tree that nobody has seen is kept by its index', () => {
    const found = objectsOf(CARDS['camera tree']!);
    for (const one of found.values()) expect(one).toMatchObject({ structure: 'camera tree', root: 'NVREC' });
    expect(found.get('NVREC/INDEX.NVX')!.role).toBe('index');
    expect(found.get('NVREC/DAY01/R0001.XML')!.object).toBe('NVREC/DAY01/R0001.MOV');
  });

  it('a folder that somebody named is told as one', () => {
    const found = objectsOf([{ path: 'Egrets at dawn/one.jpg' }, { path: 'DCIM/100HALDN/HM4_0001.JPG' }]);
    expect(found.get('Egrets at dawn/one.jpg')!.structure).toBe('folder');
    expect(found.get('DCIM/100HALDN/HM4_0001.JPG')!.structure).toBe('dcf');
  });

  it('in any letter case, inside a folder that somebody copied, two on one card', () => {
    const copied = (path: string) => `Old cards/${path.toLowerCase()}`;
    const both = [...CARDS['clip root']!, ...CARDS['avchd']!];
    const found = objectsOf(both.map(({ path, ...rest }) => ({ path: copied(path), ...rest })));
    const before = objectsOf(both);
    for (const { path } of both) {
      const one = found.get(copied(path))!;
      expect(one).toMatchObject({ role: before.get(path)!.role, structure: before.get(path)!.structure });
      expect(one.object).toBe(copied(before.get(path)!.object));
      expect(one.root).toBe(copied(before.get(path)!.root!));
    }
  });

  it('sidecars find their clip: whole name, camera suffix, side folder; two lonely ones stay apart', () => {
    const clip = 'CLIPS/CLIP0031.MP4';
    for (const sidecar of ['CLIPS/CLIP0031.XML', 'CLIPS/CLIP0031.MP4.xmp', 'CLIPS/CLIP0031M01.XML', 'CLIPS/SUB/CLIP0031.XML'])
      expect(told([clip, sidecar])[sidecar]).toBe(`sidecar of ${clip}`);
    expect(told(['A/1.XML', 'A/1.XMP'])).toEqual({ 'A/1.XML': 'sidecar of A/1.XML', 'A/1.XMP': 'sidecar of A/1.XMP' });
  });

  it('4,000 levels of folders are walked, not climbed', () => {
    const deep = `${'d/'.repeat(4000)}BDMV/STREAM/00000.MTS`;
    expect(objectsOf([{ path: deep }]).get(deep)).toMatchObject({ structure: 'avchd', role: 'leader' });
  });
});

describe('what holds of any card', () => {
  const all = Object.values(CARDS).flat();
  const shuffledSubset = fc
    .shuffledSubarray([...all], { minLength: 1 })
    .chain((files) => fc.constantFrom('as it is', 'lower', 'upper').map((letters) => ({ files, letters })));
  const cased = (path: string, letters: string) =>
    letters === 'lower' ? path.toLowerCase() : letters === 'upper' ? path.toUpperCase() : path;

  it('each file has exactly one object, the same in any order, and a companion never leads', () => {
    fc.assert(
      fc.property(shuffledSubset, ({ files, letters }) => {
        const listed = [...new Map(files.map(({ path, ...rest }) => [cased(path, letters), rest]))].map(([path, rest]) => ({
          path,
          ...rest,
        }));
        const found = objectsOf(listed);
        expect(found.size).toBe(listed.length);
        const sorted = objectsOf([...listed].sort((a, b) => (a.path < b.path ? -1 : 1)));
        for (const { path } of listed) {
          const one = found.get(path)!;
          expect(one).toEqual(sorted.get(path));
          const leader = found.get(one.object)!;
          expect(leader.object).toBe(one.object);
          if (one.object !== path) expect(['leader', 'index']).toContain(leader.role);
          if (one.part !== null) expect(one.part).toBeLessThanOrEqual(one.parts!);
        }
        // Parts of one recording are numbered without gaps.
        for (const { path } of listed.filter((file) => found.get(file.path)!.object === file.path)) {
          const mains = [...found.values()].filter((one) => one.object === path && ['leader', 'part'].includes(one.role));
          const numbers = mains.flatMap(({ part }) => part ?? []).sort((a, b) => a - b);
          expect(numbers).toEqual(numbers.map((_, index) => index + 1));
        }
      }),
    );
  });

  it('nothing that a kept structure needs is set aside', () => {
    for (const { name, whole } of STRUCTURES) {
      if (!whole) continue;
      const found = objectsOf(CARDS[name]!);
      for (const [path, one] of found) {
        if (one.root === null) continue;
        expect(keptRoot(one, DEFAULT_KEEPING)).toBe(one.root);
        expect(setAsideReason(path, one)).toBeNull();
      }
    }
  });

  it('small pictures and small versions are set aside with a reason, unless they are all there is', () => {
    const reasons = (files: readonly ListedFile[], keeping = DEFAULT_KEEPING) => {
      const found = objectsOf(files);
      return Object.fromEntries(files.flatMap(({ path }) => [[path, setAsideReason(path, found.get(path), keeping)]]));
    };
    const action = reasons(CARDS['chapters']!);
    expect(action['DCIM/100ACTN/AL010007.LRV']).toBe('small version that the camera made');
    expect(action['DCIM/100ACTN/AX010007.THM']).toBe('small picture that the camera made');
    expect(action['DCIM/100ACTN/AX020007.MP4']).toBeNull();
    expect(reasons(CARDS['chapters']!, { ...DEFAULT_KEEPING, smallVersions: 'kept' })['DCIM/100ACTN/AL010007.LRV']).toBeNull();
    expect(reasons([{ path: 'DCIM/100ACTN/AL010007.LRV' }])['DCIM/100ACTN/AL010007.LRV']).toBeNull();
    expect(reasons([{ path: 'Thumbs/egret.jpg' }])['Thumbs/egret.jpg']).toBeNull();
    const renamed = { ...DEFAULT_KEEPING, structures: { 'clip root': 'rename' } as const };
    expect(reasons(CARDS['clip root']!, renamed)['PRIVATE/M4ROOT/MEDIAPRO.XML']).toBe('index of Clips with an index');
    expect(setAsideReason('DCIM/Camera/.trashed-1779000000-IMG_0001.jpg')).toBe('thrown away on the device');
    expect(setAsideReason('MISC/100_0001.MRK')).toBe('positions at each exposure');
  });
});

describe('cameras’ trees on a drive', () => {
  it('are held by the folder above them and PRIVATE; what lies in none has no holder', () => {
    const folders = [
      '2021/film/PRIVATE/AVCHD/BDMV/STREAM',
      '2021/film/PRIVATE/AVCHD/BDMV/CLIPINF',
      '2021/film/PRIVATE/AVCHD',
      '2021/film',
      'old/XDROOT/Clip',
      'old/XDROOT/Sub',
      'CONTENTS/VIDEO',
      'somewhere/else',
    ];
    expect([...treeHolders(folders)]).toEqual([
      ['2021/film/PRIVATE/AVCHD/BDMV/STREAM', '2021/film'],
      ['2021/film/PRIVATE/AVCHD/BDMV/CLIPINF', '2021/film'],
      ['2021/film/PRIVATE/AVCHD', '2021/film'],
      ['old/XDROOT/Clip', 'old'],
      ['old/XDROOT/Sub', 'old'],
      ['CONTENTS/VIDEO', ''],
    ]);
    expect([...treeRoots(folders)]).toEqual(['2021/film/PRIVATE/AVCHD', 'old/XDROOT', 'CONTENTS']);
    // One folder of it alone tells the tree only where its root's name and its own do.
    expect([...treeRoots(['x/BDMV/STREAM'])]).toEqual(['x/BDMV']);
    expect([...treeRoots(['old/XDROOT/Sub'])]).toEqual([]);
  });
});

import { asset } from '../../../test/assets';
import { serverWith } from '../../../test/indexed';
import { Refusal, Screen, until } from '../../../test/screen';

const DAY = 86_400_000;

const tiles = (screen: Screen): (string | undefined)[] =>
  screen.all('nl-tile').map((tile) => /clip\d+/.exec(tile.textContent ?? '')?.[0]);
const arranged = (settings: object) => localStorage.setItem('neat-larder.settings', JSON.stringify(settings));

describe('a list in groups', () => {
  const assets = () => [
    asset(1, { tags: ['dawn'] }),
    asset(2, { tags: ['dawn', 'lock'] }),
    asset(3, { tags: [] }),
    asset(4, { tags: ['lock'], verdict: 'circled' }),
  ];

  it('stands beneath headings that fold, select and narrow, and counts each asset once', async () => {
    const screen = await Screen.open('/library', serverWith(assets()));
    await screen.says('[data-test="count"]', '4 assets');
    await screen.click('nl-arrange-menu button');
    await screen.choose('#group-by', 'tag');
    await until('three headings', () => screen.all('nl-group-heading').length === 3);
    expect(screen.text('nl-group-heading strong')).toBe('dawn lock Nothing said');
    expect(tiles(screen)).toEqual(['clip1', 'clip2', 'clip2', 'clip4', 'clip3']);
    expect(screen.text('[data-test="count"]')).toContain('4 assets');
    await screen.click('nl-group-heading [title="Fold this group away"]');
    await until('it folded', () => tiles(screen).join() === 'clip2,clip4,clip3');
    await screen.click('nl-group-heading button', 'Select all of lock');
    await screen.says('[data-test="count"]', '2 selected');
    await screen.click('nl-group-heading button', 'Show only lock');
    await until('the search', () => screen.address === '/library?q=tag%3Dlock');
    await screen.says('[data-test="count"]', '2 assets');
  });

  it('is walked through by the arrows over what is folded away', async () => {
    arranged({ by: 'verdict' });
    const screen = await Screen.open('/library', serverWith(assets()));
    await until('the list', () => tiles(screen).join() === 'clip4,clip1,clip2,clip3');
    await screen.click('nl-tile', 'clip4');
    await screen.press('ArrowRight');
    await until('the next group', () => screen.text('nl-tile.selected').includes('clip1'));
    await screen.press('ArrowLeft');
    await until('back', () => screen.text('nl-tile.selected').includes('clip4'));
  });

  it('too many groups are refused in words, and the list can be had without', async () => {
    const server = serverWith(assets());
    server.on('search', ({ by }) =>
      by
        ? new Refusal(422, { code: 'refused', reason: 'That would be 9,000 groups.' })
        : { total: 0, found: 0, offset: 0, revision: 1, assets: [], groups: null, lifted: null },
    );
    arranged({ by: 'name' });
    const screen = await Screen.open('/library', server);
    await screen.says('.notice', 'That would be 9,000 groups.');
    await screen.click('nl-arrange-menu button');
    await screen.choose('#group-by', '');
    await until('no complaint', () => screen.all('.notice').length === 0);
  });

  it('in a ledger each group says its name where it begins', async () => {
    arranged({ by: 'tag', view: 'ledger' });
    const screen = await Screen.open('/library', serverWith(assets()));
    await until('the rows', () => screen.all('.ag-row [col-id="name"]').length >= 5);
    const headings = screen
      .all('.ag-row [col-id="group of the list"]')
      .map((cell) => cell.textContent?.trim())
      .filter(Boolean);
    expect(headings).toEqual(['dawn (2)', 'lock (2)', 'Nothing said (1)']);
  });
});

describe('lines beneath the pictures', () => {
  it('are chosen, say what there is, and say where there is nothing', async () => {
    const said = asset(1, { scene: '12', verdict: 'hold' });
    const screen = await Screen.open('/library', serverWith([said, asset(2, { scene: null })]));
    await screen.says('nl-tile', 'clip1');
    await screen.click('nl-arrange-menu button');
    await screen.choose('#line-0', 'scene');
    await screen.choose('#line-1', 'verdict');
    expect(screen.all('nl-tile .line').map((line) => line.textContent?.trim())).toEqual([
      ...['12', 'Hold', 'no scene', 'no verdict'],
    ]);
    await screen.choose('#line-0', '');
    expect(screen.all('nl-tile .line').map((line) => line.textContent?.trim())).toEqual(['Hold', 'no verdict']);
  });
});

describe('why a search found it', () => {
  const assets = () => [
    asset(1, { tags: ['Early dawn'], description: 'A long way before anything is said of it, the lower gate opens.' }),
    asset(2, { title: 'The gate from below', description: 'Seen from the boat.' }),
  ];
  const told = (screen: Screen) =>
    screen.all('nl-tile').map((tile) => {
      const hits = [...tile.querySelectorAll('.match mark')].map((mark) => mark.textContent);
      return [tile.querySelector('.match')?.textContent?.replace(/\s+/g, ' ').trim() ?? null, hits];
    });

  it('stands beneath each picture, from what is not seen anyway, with its words marked', async () => {
    const screen = await Screen.open('/library?q=gate', serverWith(assets()));
    await until('both', () => told(screen).length === 2);
    expect(told(screen)).toEqual([
      ['Description … the lower gate opens.', ['gate']],
      ['Title The gate from below', ['gate']],
    ]);
    expect(screen.one('nl-tile .match').title).toBe(
      'Description: A long way before anything is said of it, the lower gate opens.',
    );
    await screen.type('#search-line', 'description:boat');
    await until('the other', () => JSON.stringify(told(screen)) === '[["Description … from the boat.",["boat"]]]');
  });

  it.each(['has:description', 'tag:dawn or tag=none', 'in:Best or kind:video', 'title:gate or verdict:ng'])(
    'is not said where it is seen anyway: %s',
    async (query) => {
      const screen = await Screen.open(`/library?q=${encodeURIComponent(query)}`, serverWith(assets()));
      await until('some', () => told(screen).length > 0);
      expect(told(screen).every(([line]) => line === null)).toBe(true);
    },
  );
});

describe('flags', () => {
  it('are put on and taken off by key, shown at once, and searched by a button', async () => {
    const server = serverWith([1, 2, 3].map((id) => asset(id)));
    const screen = await Screen.open('/library', server, 'viewer');
    await screen.click('nl-tile', 'clip2');
    await screen.press('F', { shiftKey: true });
    await screen.says('nl-tile.selected .flag', 'Flag');
    await until('it kept', () => server.flagged.join() === '2');
    await screen.click('button', 'Flagged');
    await until('the search', () => screen.address === '/library?q=flag:mine');
    await until('only that', () => tiles(screen).join() === 'clip2');
    await screen.click('button', 'Flagged');
    await until('all', () => tiles(screen).length === 3);
    await screen.press('a', { ctrlKey: true });
    await screen.says('[data-test="count"]', '3 selected');
    await screen.press('F', { shiftKey: true });
    await screen.says('nl-toasts', 'Flagged: 3 assets.');
    await screen.click('nl-toasts button', 'Undo');
    await until('none', () => server.flagged.length === 0);
  });

  it('that the server does not keep go again, with words', async () => {
    const server = serverWith([asset(1)]);
    server.on('setFlags', () => new Refusal(500, { code: 'internal', reference: 'r-1' }));
    const screen = await Screen.open('/library', server);
    await screen.click('nl-tile', 'clip1');
    await screen.press('F', { shiftKey: true });
    await screen.says('nl-toasts', 'The flag was not kept.');
    expect(screen.all('nl-tile .flag')).toEqual([]);
  });
});

describe('order by hand', () => {
  const open = () => {
    const inside = [1, 2, 3].map((id) => asset(id, { bins: ['Best'] }));
    return Screen.open('/bins?in=Best', serverWith([...inside, asset(9)], [3, 1, 2]));
  };

  it('is how a bin opens, is moved by key and by dragging, and is left for another order', async () => {
    const screen = await open();
    await until('the bin', () => tiles(screen).join() === 'clip3,clip1,clip2');
    await screen.click('nl-tile', 'clip2');
    await screen.press('ArrowUp', { altKey: true });
    screen.changed('bin', 4, 5);
    await until('one earlier', () => tiles(screen).join() === 'clip3,clip2,clip1');
    await screen.press('ArrowDown', { altKey: true });
    screen.changed('bin', 4, 6);
    await until('one later', () => tiles(screen).join() === 'clip3,clip1,clip2');
    const data = new Map<string, string>();
    const dataTransfer = {
      setData: (type: string, value: string) => void data.set(type, value),
      getData: (type: string) => data.get(type) ?? '',
      get types() {
        return [...data.keys()];
      },
    };
    const drag = (type: string, words: string) =>
      screen
        .one('nl-tile', words)
        .dispatchEvent(Object.assign(new Event(type, { bubbles: true, cancelable: true }), { dataTransfer }));
    drag('dragstart', 'clip2');
    drag('dragover', 'clip3');
    await until('the place shown', () => screen.all('nl-tile.before').length === 1);
    drag('drop', 'clip3');
    screen.changed('bin', 4, 7);
    await until('it first', () => tiles(screen).join() === 'clip2,clip3,clip1');
    await screen.choose('#sort', 'name/up');
    await until('by name', () => tiles(screen).join() === 'clip1,clip2,clip3');
    await screen.choose('#sort', 'by-hand');
    await until('by hand again', () => tiles(screen).join() === 'clip2,clip3,clip1');
  });

  it('is not offered elsewhere', async () => {
    const screen = await Screen.open('/library', serverWith([asset(1)]));
    await screen.says('nl-tile', 'clip1');
    expect(screen.text('#sort')).not.toContain('By hand');
  });
});

describe('the map', () => {
  const placed = () => [
    asset(1, { logged: { position: '50.8120, -3.3180' }, place: 'Lower lock' }),
    asset(2, { logged: { position: '50.8121, -3.3180' }, place: 'Lower lock' }),
    asset(3, { logged: { position: '52.0000, -1.0000' } }),
    asset(4),
  ];

  it('names its places, shows what lies there, and goes on with it as a search', async () => {
    arranged({ view: 'map' });
    const server = serverWith(placed());
    const screen = await Screen.open('/library?q=clip*', server);
    await screen.says('.entry', 'Lower lock12 km north of Farport');
    await screen.says('.side', '1 asset without a position.');
    expect(screen.text('.entry small')).toContain('52.0000° N, 1.0000° W');
    await screen.click('.entry', 'Lower lock');
    await until('the first of it', () => screen.all('nl-picked-strip .one').length === 2);
    expect(screen.one('.spot.picked').textContent?.trim()).toBe('2');
    await screen.click('nl-picked-strip button', 'Select all');
    await screen.says('[data-test="count"]', '2 selected');
    await screen.click('nl-picked-strip button', 'Show 2 assets');
    await until('the search', () => screen.address.startsWith('/library?q=clip*%20near:50.81205,-3.318,20m'));
    await until('as a list', () => tiles(screen).join() === 'clip1,clip2');
  });

  it('asks for the stretch it was moved to, says when nothing lies there, and comes back to all', async () => {
    arranged({ view: 'map' });
    const server = serverWith(placed());
    const screen = await Screen.open('/library', server);
    await screen.says('.entry', 'Lower lock');
    await screen.click('.east');
    await screen.says('.side', 'Nothing lies in this stretch of the map.');
    expect(server.bodies('map').at(-1)?.box).toEqual({ south: 0, west: 90, north: 10, east: 120 });
    await screen.click('.whole');
    screen.changed('asset', 1, 9);
    await until('asked anew', () => server.bodies('map').at(-1)?.atLeast === 9);
  });

  it('stays as it is while a search is written that cannot be run yet', async () => {
    arranged({ view: 'map' });
    const server = serverWith(placed());
    const screen = await Screen.open('/library', server);
    await screen.says('.entry', 'Lower lock');
    await screen.type('#search-line', 'clip* tga:x');
    await screen.says('#search-issue', 'Did you mean “tag:”?');
    screen.changed('asset', 1, 9);
    await until('asked anew', () => server.bodies('map').at(-1)?.atLeast === 9);
    expect(server.bodies('map').map(({ query }) => query)).not.toContain('clip* tga:x');
    expect(screen.text('.entry')).toContain('Lower lock');
  });

  it('says what to do where nothing is placed, and what went wrong', async () => {
    arranged({ view: 'map' });
    const screen = await Screen.open('/library', serverWith([asset(1)]));
    await screen.says('.nothing', 'Nothing here says where it was recorded');
    screen.server.on('map', () => new Refusal(500, { code: 'internal', reference: 'r-8' }));
    screen.changed('asset', 1, 9);
    await screen.says('[role="alert"]', 'r-8');
  });

  it('asks once more where it went wrong', async () => {
    arranged({ view: 'calendar' });
    const server = serverWith([asset(1, { shotMs: Date.UTC(2026, 4, 12) })]);
    let broken = true;
    server.on('days', () =>
      broken
        ? new Refusal(500, { code: 'internal', reference: 'r-9' })
        : { days: [{ dayMs: Date.UTC(2026, 4, 12), count: 1 }], dated: 1, total: 1, revision: server.revision },
    );
    const screen = await Screen.open('/library', server);
    await screen.says('[role="alert"]', 'r-9');
    broken = false;
    await screen.click('[role="alert"] button', 'Try again');
    await screen.says('.entry', '12 May 2026');
  });
});

describe('the calendar', () => {
  it('shows days as a chart and a list, what was shot on one, and goes on with it', async () => {
    arranged({ view: 'calendar' });
    const first = Date.UTC(2026, 4, 12);
    const screen = await Screen.open(
      '/library',
      serverWith([
        asset(1, { shotMs: first + 3_600_000 }),
        asset(2, { shotMs: first + DAY - 1 }),
        asset(3, { shotMs: first + DAY }),
        asset(4, { shotMs: null }),
      ]),
    );
    await screen.says('.side', 'May 2026');
    expect(screen.all('.entry').map((each) => each.textContent?.trim())).toEqual(['13 May 20261', '12 May 20262']);
    await screen.says('.side', '1 asset without a day.');
    await screen.click('nl-days-chart button', `${first}: 2`);
    await screen.says('nl-picked-strip strong', '12 May 2026');
    expect(screen.one('.entry.active').textContent).toContain('12 May 2026');
    await screen.click('nl-picked-strip button', 'Show 2 assets');
    await until('the search', () => screen.address === '/library?q=shot:2026-05-12');
    await until('as a list', () => tiles(screen).join() === 'clip1,clip2');
  });

  it('says it where no file says when', async () => {
    arranged({ view: 'calendar' });
    const screen = await Screen.open('/library', serverWith([asset(1, { shotMs: null })]));
    await screen.says('.nothing', 'Nothing here says when it was shot');
  });
});

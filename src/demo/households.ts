/** The invented households of Osprey Landing and what they come for. */

interface DemoMember {
  first: string;
  birth: string;
  sex: 'F' | 'M' | 'U';
}

/** A household: `group` is its insurance group, absent for those who pay themselves. */
export interface DemoHousehold {
  last: string;
  street: string;
  group?: string;
  members: DemoMember[];
  pays?: 'well' | 'slowly' | 'never' | 'ahead';
  /** A visit about every so many weeks for each member; 0 where a story of its own says when. */
  everyWeeks?: number;
  story?: 'therapy' | 'crown';
  /** The payer's books say coverage has ended: every claim is denied. */
  ended?: boolean;
  /** The member id was keyed wrong: claims are rejected. */
  mistyped?: boolean;
  /** What the payer says of its claims when it looks at them again. */
  again?: 'deductible met' | 'pays less';
}

/** Somebody of a household of the scenario, by its index there and their own. */
export interface Person {
  householdId: number;
  patientId: number;
  index: number;
  member: number;
  insured: boolean;
  dental: boolean;
}

const p = (first: string, birth: string, sex: 'F' | 'M' | 'U'): DemoMember => ({ first, birth, sex });

/** The households. */
export const HOUSEHOLDS: readonly DemoHousehold[] = [
  {
    last: 'Marchetti',
    street: 'Gull Walk',
    group: 'CS-200',
    members: [p('Rosa', '1979-05-12', 'F'), p('Leo', '2012-09-30', 'M')],
    everyWeeks: 7,
  },
  {
    last: 'Abernathy',
    street: 'Kelp Row',
    group: 'CS-350',
    members: [p('Dale', '1966-02-03', 'M'), p('June', '1968-11-21', 'F')],
    pays: 'slowly',
  },
  {
    last: 'Nguyen',
    street: 'Tern Court',
    group: 'TD-5',
    members: [p('Minh', '1985-07-19', 'M'), p('Lan', '1987-01-08', 'F'), p('Kim', '2015-04-17', 'F')],
  },
  {
    last: 'Oduya',
    street: 'Anchor Lane',
    group: 'NL-A10',
    members: [p('Grace', '1991-03-27', 'F')],
    story: 'therapy',
    everyWeeks: 3,
  },
  { last: 'Petrov', street: 'Lantern Street', members: [p('Ivan', '1958-12-01', 'M')], pays: 'slowly' },
  {
    last: 'Halvorsen',
    street: 'Skiff Road',
    group: 'TD-5',
    members: [p('Signe', '1974-06-06', 'F')],
    story: 'crown',
    everyWeeks: 5,
  },
  {
    last: 'Castellano',
    street: 'Gull Walk',
    group: 'CS-200',
    members: [p('Bruno', '1950-10-10', 'M'), p('Ada', '1953-08-14', 'F')],
    pays: 'ahead',
  },
  {
    last: 'Whitlock',
    street: 'Mill Lane',
    group: 'NL-A10',
    members: [p('Perry', '1999-01-30', 'M')],
    ended: true,
    everyWeeks: 8,
  },
  {
    last: 'O’Rourke',
    street: 'Ferry Steps',
    group: 'CS-350',
    members: [p('Maeve', '1982-04-02', 'F'), p('Finn', '2009-12-12', 'M')],
  },
  {
    last: 'Sato',
    street: 'Pine Hollow',
    group: 'TD-5',
    members: [p('Haruka', '1995-09-09', 'F')],
    pays: 'never',
  },
  {
    last: 'Delacroix',
    street: 'Harbor Street',
    group: 'CS-200',
    members: [p('Amélie', '1970-07-07', 'F')],
    story: 'therapy',
    everyWeeks: 4,
  },
  {
    last: 'Brightwater',
    street: 'Osprey Point',
    members: [p('Cole', '1988-05-25', 'M'), p('Wren', '2018-02-18', 'F')],
  },
  {
    last: 'Mbeki-Larsson',
    street: 'Tern Court',
    group: 'CS-350',
    members: [
      p('Thandi', '1980-10-31', 'F'),
      p('Olle', '1978-03-15', 'M'),
      p('Nia', '2011-06-24', 'F'),
      p('Tor', '2014-08-08', 'M'),
    ],
    everyWeeks: 11,
  },
  {
    last: 'Quill',
    street: 'Kelp Row',
    group: 'TD-5',
    members: [p('Edith', '1946-01-19', 'F')],
    pays: 'slowly',
    everyWeeks: 7,
  },
  {
    last: 'Ramanathan',
    street: 'Lantern Street',
    group: 'NL-A10',
    members: [p('Vikram', '1973-11-11', 'M'), p('Anjali', '1976-02-26', 'F')],
  },
  {
    last: 'Foss',
    street: 'Skiff Road',
    group: 'CS-200',
    members: [p('Gunnar', '1962-09-03', 'M')],
    mistyped: true,
    everyWeeks: 10,
  },
  {
    last: 'Varga',
    street: 'Anchor Lane',
    members: [p('Zsófia', '1993-12-20', 'F')],
    pays: 'never',
    everyWeeks: 8,
  },
  {
    last: 'Kealoha',
    street: 'Pine Hollow',
    group: 'TD-5',
    members: [p('Noa', '1984-05-05', 'M'), p('Malia', '1986-08-22', 'F')],
  },
  {
    last: 'Stroud',
    street: 'Ferry Steps',
    group: 'CS-350',
    members: [p('Vernon', '1955-03-08', 'M')],
    everyWeeks: 5,
  },
  {
    last: 'Ibarra',
    street: 'Mill Lane',
    group: 'CS-200',
    members: [p('Lucía', '1990-06-16', 'F'), p('Mateo', '2016-10-02', 'M')],
    pays: 'slowly',
  },
  { last: 'Thistlewood', street: 'Osprey Point', group: 'NL-A10', members: [p('Agnes', '1969-04-28', 'F')] },
  {
    last: 'Zielinski',
    street: 'Gull Walk',
    group: 'TD-5',
    members: [p('Marek', '1977-07-23', 'M'), p('Hanna', '1979-01-13', 'F')],
    pays: 'ahead',
  },
  { last: 'Beaumont', street: 'Harbor Street', group: 'CS-350', members: [p('Clara', '2001-02-11', 'F')] },
  { last: 'Yoder', street: 'Kelp Row', members: [p('Amos', '1971-08-30', 'M')], everyWeeks: 12 },
  {
    last: 'Fairweather',
    street: 'Tern Court',
    group: 'CS-200',
    members: [p('Isla', '1997-11-05', 'F'), p('Jonah', '1996-03-03', 'M')],
    pays: 'well',
  },
  {
    last: 'Achterberg',
    street: 'Lantern Street',
    group: 'NL-A10',
    members: [p('Dirk', '1959-05-17', 'M')],
    pays: 'never',
  },
  {
    last: 'Vesterholm',
    street: 'Barnacle Row',
    group: 'TD-5',
    members: [p('Greta', '1972-02-27', 'F')],
    everyWeeks: 0,
    pays: 'never',
    again: 'deductible met',
  },
  {
    last: 'Marlowe',
    street: 'Dory Lane',
    group: 'NL-A10',
    members: [p('Curtis', '1980-07-30', 'M')],
    everyWeeks: 0,
    pays: 'never',
    again: 'pays less',
  },
  {
    last: 'Pemberton',
    street: 'Spindrift Way',
    group: 'CS-200',
    members: [p('Olive', '1961-10-12', 'F')],
    everyWeeks: 0,
    pays: 'never',
  },
  {
    last: 'Tamura',
    street: 'Ebb Court',
    group: 'CS-350',
    members: [p('Kenji', '1976-04-09', 'M'), p('Emi', '2013-01-25', 'F')],
  },
  { last: 'Okafor', street: 'Mainsail Street', members: [p('Chidi', '1987-06-18', 'M')], everyWeeks: 14 },
  {
    last: 'Lindgren',
    street: 'Cormorant Court',
    group: 'TD-5',
    members: [p('Sven', '1968-12-11', 'M'), p('Karin', '1970-05-02', 'F')],
    everyWeeks: 15,
  },
  {
    last: 'Bellamy',
    street: 'Mooring Lane',
    group: 'NL-A10',
    members: [p('Ruth', '1951-03-19', 'F')],
    pays: 'slowly',
    everyWeeks: 8,
  },
  {
    last: 'Carvalho',
    street: 'Jetty Row',
    group: 'CS-200',
    members: [p('Inês', '1994-08-08', 'F'), p('Duarte', '1992-11-30', 'M')],
    everyWeeks: 13,
  },
  {
    last: 'Haverford',
    street: 'Windlass Street',
    group: 'CS-350',
    members: [p('Beth', '1983-09-14', 'F'), p('Sam', '2010-02-03', 'M'), p('Lily', '2016-07-21', 'F')],
    everyWeeks: 14,
  },
  {
    last: 'Nakagawa',
    street: 'Harpoon Alley',
    group: 'TD-5',
    members: [p('Aiko', '1998-01-06', 'F')],
    everyWeeks: 12,
  },
  {
    last: 'Prescott',
    street: 'Lighthouse Hill',
    group: 'CS-200',
    members: [p('Walter', '1948-06-25', 'M'), p('Vera', '1950-09-17', 'F')],
    pays: 'ahead',
    everyWeeks: 11,
  },
  { last: 'Ansah', street: 'Oyster Street', members: [p('Kofi', '1990-12-24', 'M')], everyWeeks: 15 },
  {
    last: 'Wolfe',
    street: 'Capstan Road',
    group: 'NL-A10',
    members: [p('Dana', '1985-03-03', 'F'), p('Eli', '2014-10-10', 'M')],
    everyWeeks: 13,
  },
  {
    last: 'Sandoval',
    street: 'Breakwater Path',
    group: 'TD-5',
    members: [p('Rafael', '1963-07-07', 'M')],
    pays: 'slowly',
    everyWeeks: 12,
  },
  {
    last: 'Everly',
    street: 'Tidewater Close',
    group: 'CS-350',
    members: [p('Nora', '2000-05-16', 'F')],
    everyWeeks: 12,
  },
  {
    last: 'Mwangi',
    street: 'Sandpiper Walk',
    group: 'CS-200',
    members: [p('Joseph', '1978-02-08', 'M'), p('Amani', '1981-04-29', 'F')],
    everyWeeks: 14,
  },
  {
    last: 'Iversen',
    street: 'Skiff Road',
    group: 'TD-5',
    members: [p('Tove', '1989-11-01', 'F'), p('Ask', '2017-03-12', 'M')],
    everyWeeks: 14,
  },
  {
    last: 'Calloway',
    street: 'Osprey Point',
    group: 'NL-A10',
    members: [p('Grant', '1955-08-20', 'M')],
    everyWeeks: 10,
  },
];

interface DemoVisit {
  dental: boolean;
  provider: 'family' | 'family2' | 'therapy' | 'dental' | 'dental2';
  story?: 'therapy' | 'crown';
  diagnoses: string[];
  services: { code: string; units?: number; tooth?: string; surfaces?: string }[];
}

/** What people come for. */
export const VISITS: readonly DemoVisit[] = [
  { dental: false, provider: 'family', diagnoses: ['J06.9'], services: [{ code: '99213' }] },
  {
    dental: false,
    provider: 'family',
    diagnoses: ['I10', 'E78.5'],
    services: [{ code: '99214' }, { code: '36415' }, { code: '80053' }],
  },
  {
    dental: false,
    provider: 'family2',
    diagnoses: ['J02.0'],
    services: [{ code: '99213' }, { code: '87880' }, { code: '99051' }],
  },
  {
    dental: false,
    provider: 'family',
    diagnoses: ['Z00.00'],
    services: [{ code: '99396' }, { code: '36415' }, { code: '85025' }],
  },
  {
    dental: false,
    provider: 'family2',
    diagnoses: ['S61.411A'],
    services: [{ code: '99212' }, { code: '12001' }],
  },
  {
    dental: false,
    provider: 'family',
    diagnoses: ['E11.9'],
    services: [{ code: '99213' }, { code: '80053' }],
  },
  {
    dental: false,
    provider: 'therapy',
    story: 'therapy',
    diagnoses: ['M54.50'],
    services: [{ code: '97110', units: 2 }, { code: '97140' }],
  },
  {
    dental: false,
    provider: 'therapy',
    story: 'therapy',
    diagnoses: ['M25.511'],
    services: [{ code: '97161' }, { code: '97110' }],
  },
  { dental: true, provider: 'dental2', diagnoses: [], services: [{ code: 'D0120' }, { code: 'D1110' }] },
  {
    dental: true,
    provider: 'dental2',
    diagnoses: [],
    services: [{ code: 'D0120' }, { code: 'D0274' }, { code: 'D1110' }, { code: 'D1206' }],
  },
  {
    dental: true,
    provider: 'dental',
    diagnoses: ['K02.9'],
    services: [{ code: 'D2391', tooth: '19', surfaces: 'O' }],
  },
  {
    dental: true,
    provider: 'dental',
    diagnoses: ['K02.9'],
    services: [{ code: 'D2392', tooth: '30', surfaces: 'MO' }],
  },
  {
    dental: true,
    provider: 'dental',
    diagnoses: ['K02.9'],
    services: [{ code: 'D0140' }, { code: 'D0220', tooth: '8' }, { code: 'D9110' }],
  },
  {
    dental: true,
    provider: 'dental',
    story: 'crown',
    diagnoses: ['K02.9'],
    services: [
      { code: 'D2740', tooth: '14' },
      { code: 'D2950', tooth: '14' },
    ],
  },
  {
    dental: true,
    provider: 'dental',
    story: 'crown',
    diagnoses: ['K05.10'],
    services: [{ code: 'D4341' }, { code: 'D4910' }],
  },
];

/** What a column may be, in the order in which the mapper offers it, and the units that fit. */
export const ROLE_CHOICES: readonly {
  readonly role: string;
  readonly label: string;
  readonly units: readonly string[];
}[] = [
  { role: 'engineSpeed', label: 'Engine speed', units: ['rpm', '1000 rpm'] },
  { role: 'wheelPower', label: 'Wheel power', units: ['kW', 'hp', 'PS', 'W'] },
  { role: 'wheelTorque', label: 'Wheel torque', units: ['N·m', 'lb·ft', 'kgf·m'] },
  { role: 'time', label: 'Time', units: ['s', 'ms', 'hh:mm:ss'] },
  { role: 'rollerSpeed', label: 'Roller speed', units: ['rad/s', 'roller rpm'] },
  { role: 'brakeTorque', label: 'Brake torque', units: ['N·m', 'lb·ft', 'kgf·m'] },
  { role: 'throttle', label: 'Throttle', units: ['%', 'fraction'] },
  { role: 'intakeAir', label: 'Intake air', units: ['°C', '°F', 'K'] },
  { role: 'coolant', label: 'Coolant', units: ['°C', '°F', 'K'] },
  { role: 'oil', label: 'Oil', units: ['°C', '°F', 'K'] },
  { role: 'bayAir', label: 'Air in the bay', units: ['°C', '°F', 'K'] },
  { role: 'stationPressure', label: 'Station pressure', units: ['hPa', 'kPa', 'inHg', 'mmHg', 'psi', 'bar', 'Pa'] },
  { role: 'humidity', label: 'Relative humidity', units: ['%', 'fraction'] },
  { role: 'roadSpeed', label: 'Road speed', units: ['km/h', 'mph', 'm/s'] },
  { role: 'pedal', label: 'Pedal', units: ['%', 'fraction'] },
  { role: 'chargeIn', label: 'Air into the cooler', units: ['°C', '°F', 'K'] },
  { role: 'charge', label: 'Air out of the cooler', units: ['°C', '°F', 'K'] },
  { role: 'coolerAir', label: 'Air ahead of the cooler', units: ['°C', '°F', 'K'] },
  { role: 'gearbox', label: 'Gearbox oil', units: ['°C', '°F', 'K'] },
  { role: 'exhaust', label: 'Exhaust gas', units: ['°C', '°F', 'K'] },
  { role: 'manifold', label: 'Manifold pressure, absolute', units: ['kPa', 'bar', 'psi', 'hPa', 'inHg'] },
  { role: 'inletVacuum', label: 'Inlet vacuum', units: ['kPa', 'hPa', 'inHg', 'mmHg', 'psi'] },
  { role: 'fuelPressure', label: 'Fuel pressure', units: ['kPa', 'bar', 'psi'] },
  { role: 'oilPressure', label: 'Oil pressure', units: ['bar', 'kPa', 'psi'] },
  { role: 'airflow', label: 'Air mass flow, g/s', units: [] },
  { role: 'ignition', label: 'Ignition timing, °', units: [] },
  { role: 'knock', label: 'Knock retard, °', units: [] },
  { role: 'lambda', label: 'Lambda', units: [] },
  { role: 'pullName', label: 'Name of the pull', units: [] },
  { role: 'other', label: 'Keep as it is', units: [] },
  { role: 'ignore', label: 'Leave out', units: [] },
];

export default `
-- Each change of a setting in a plan says its namespace under that name ('room' before).
update ledger_plan set plan = json_set(plan, '$.settings', (
    select json_group_array(
      json_remove(json_set(step.value, '$.namespace', step.value ->> 'room'), '$.room') order by step.key)
    from json_each(plan, '$.settings') as step))
  where json_valid(plan) and json_array_length(plan, '$.settings') > 0;
update ledger_part set steps = (
    select json_group_array(
      json_remove(json_set(step.value, '$.namespace', step.value ->> 'room'), '$.room') order by step.key)
    from json_each(steps) as step)
  where list = 'settings' and json_valid(steps);
`;

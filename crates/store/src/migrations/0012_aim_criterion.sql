-- What is aimed for has the name that the code has: its value and the version of its section move with it.
UPDATE site SET settings = json_set(json_remove(settings, '$.school'), '$.aim_criterion', json_extract(settings, '$.school'))
  WHERE json_extract(settings, '$.school') IS NOT NULL;
UPDATE site SET settings_versions = json_set(
    json_remove(settings_versions, '$.school'), '$.aim_criterion', json_extract(settings_versions, '$.school'))
  WHERE json_extract(settings_versions, '$.school') IS NOT NULL;

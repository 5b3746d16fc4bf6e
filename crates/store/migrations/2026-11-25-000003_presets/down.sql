DROP TABLE presets;

"""Project files of earlier forms, brought up to the present one."""

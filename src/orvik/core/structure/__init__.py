"""Structure: heights that can be asked, planes over the relief, thickness and depth, nets and sections."""

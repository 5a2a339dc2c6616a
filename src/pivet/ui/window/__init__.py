"""The window around the views: menus, bars, settings, what opens and exports."""

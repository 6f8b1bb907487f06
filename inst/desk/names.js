// Names and units as people read them.

export const words = name => name.replace(/_/g, " ");

export const shownUnits = text => text.replace(/\b([a-z]?m|in|px)2\b/g, "$1\u00b2").replace(/\bum(?![a-z0-9])/g, "\u00b5m");

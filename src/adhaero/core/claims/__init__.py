"""The one judge of what data show: claims about pairs, against a reference, over strata."""

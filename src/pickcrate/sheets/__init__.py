"""The contact sheet: pictures to look at and to pick on, as one web page that works from disk, or on paper."""

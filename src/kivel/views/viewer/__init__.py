"""The page that plays clips in a browser: its parts, put together by `views/viewer_page.py`."""

"""A file as a source, by what it contains."""

from pathlib import Path

from dianoia.signals.readers.content import content_of
from dianoia.signals.readers.source import Source


def open_source(path: Path) -> Source:
    """The file's reader. Raises RefusedInput for what is no log. Each reader is imported only for a file of its kind."""
    content, head = content_of(path)
    if content == "mdf":
        from dianoia.signals.readers.mdf import MdfLog

        return MdfLog(path)
    if content == "parquet":
        from dianoia.signals.keep import KeptLog

        return KeptLog(path)
    from dianoia.signals.readers.layout import layout_of
    from dianoia.signals.readers.long_text import LongTextLog, is_long
    from dianoia.signals.readers.text import TextLog

    layout = layout_of(head)
    return (LongTextLog if is_long(layout) else TextLog)(path, layout)

"""Parameter types shared by the routers."""

from typing import Annotated

from fastapi import Form, Path, Query

LARGEST = 9_007_199_254_740_992  # whole numbers beyond this are not exact in a browser
BuildId = Annotated[int, Path(ge=1, le=LARGEST)]
AskedBuild = Annotated[int | None, Query(ge=1, le=LARGEST)]
FindingNumber = Annotated[int, Query(ge=0, le=999)]
Base = Annotated[int, Form(ge=1, le=LARGEST)]
Line = Annotated[str, Form(max_length=300)]
Typed = Annotated[str, Form(max_length=10_000)]
Count = Annotated[int, Form(ge=0, le=999)]

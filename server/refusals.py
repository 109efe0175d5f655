"""How a request is turned away before anything is asked of the application."""

from django.http import HttpResponse, JsonResponse


def refused(message: str, status: int, retry_after_s: int | None = None) -> HttpResponse:
    """The answer, as the API tells a problem. retry_after_s: when it may be tried again, None where that would not help."""
    answer = JsonResponse({"message": message, "findings": []}, status=status)
    if retry_after_s is not None:
        answer["Retry-After"] = str(retry_after_s)
    return answer

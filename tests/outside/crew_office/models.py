"""Users and groups as the library wants them."""

from django.contrib.auth.models import AbstractUser, Group
from django.db import models
from django_scim.models import AbstractSCIMGroupMixin, AbstractSCIMUserMixin


class Crew(AbstractSCIMGroupMixin):
    """A group of its own kind."""

    name = models.CharField(max_length=80, unique=True)


class Member(AbstractSCIMUserMixin, AbstractUser):
    """A user; who is in a crew is kept beside both."""

    scim_groups = models.ManyToManyField(Crew, related_name="user_set")
    groups = models.ManyToManyField(Group, related_name="members", blank=True)
